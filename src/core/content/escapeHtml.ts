const ESCAPES: Record<string, string> = {
  '&': '&amp;',
  '<': '&lt;',
  '>': '&gt;',
  '"': '&quot;',
  "'": '&#39;',
};

/** A text for HTML content or a quoted attribute. */
export const escapeHtml = (text: string): string => text.replace(/[&<>"']/g, (mark) => ESCAPES[mark] ?? mark);
