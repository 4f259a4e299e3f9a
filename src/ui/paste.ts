/** What a word processor writes before an item of a list: a bullet of some font, or a number, then blanks. */
const BULLET = /^[\s\u00a0]*(?:[·•o§▪‣\uf0b7-]|(\d+)[.)])[\s\u00a0]+/;

/** Whether a pasted paragraph is an item of a list that the word processor only drew. */
function drawnItem(paragraph: Element): { ordered: boolean } | null {
  const style = `${paragraph.getAttribute('class') ?? ''} ${paragraph.getAttribute('style') ?? ''}`;
  if (!/MsoList|mso-list/i.test(style)) return null;
  const match = BULLET.exec(paragraph.textContent);
  return match ? { ordered: match[1] !== undefined } : null;
}

function dropBullet(paragraph: Element): void {
  const first = document.createTreeWalker(paragraph, NodeFilter.SHOW_TEXT);
  let left = BULLET.exec(paragraph.textContent)?.[0].length ?? 0;
  for (let node = first.nextNode(); node && left > 0; node = first.nextNode()) {
    const text = node.textContent ?? '';
    const cut = Math.min(left, text.length);
    node.textContent = text.slice(cut);
    left -= cut;
  }
}

/**
 * Pasted HTML without what a web page or word processor brings along: comments, its own elements and styles; lists it
 * only drew become lists. What then is not in our document model is dropped by the editor's schema.
 */
export function cleanPasted(html: string): string {
  const page = new DOMParser().parseFromString(html, 'text/html');
  for (const element of page.querySelectorAll(
    'style, script, meta, link, xml, title, head, o\\:p, noscript, template',
  ))
    if (element !== page.head) element.remove();
  const comments = page.createTreeWalker(page.body, NodeFilter.SHOW_COMMENT);
  const found: Node[] = [];
  for (let node = comments.nextNode(); node; node = comments.nextNode()) found.push(node);
  for (const node of found) node.parentNode?.removeChild(node);
  let list: Element | null = null;
  for (const paragraph of [...page.body.querySelectorAll('p')]) {
    const item = drawnItem(paragraph);
    if (!item) {
      list = null;
      continue;
    }
    const tag = item.ordered ? 'OL' : 'UL';
    if (!list || list.tagName !== tag || list.nextElementSibling !== paragraph) {
      list = page.createElement(tag);
      paragraph.before(list);
    }
    dropBullet(paragraph);
    const entry = page.createElement('li');
    entry.append(paragraph);
    list.append(entry);
  }
  return page.body.innerHTML;
}
