import hydrate from '@astrojs/react/client.js';

/** What an island is given, with what was written apart from it (see `apart.ts`) put in its place. */
function whole(props: Record<string, unknown>): Record<string, unknown> {
  for (const [name, value] of Object.entries(props)) {
    const id = (value as { $apart?: unknown } | null)?.$apart;
    // Only what the page's frame wrote: what an address says may look like anything.
    const data = typeof id === 'string' ? document.getElementById(id) : null;
    if (data instanceof HTMLScriptElement) props[name] = JSON.parse(data.textContent) as unknown;
  }
  return props;
}

export default (element: HTMLElement): ReturnType<typeof hydrate> => {
  const into = hydrate(element);
  return (Component, props, slots, directive) => into(Component, whole(props), slots, directive);
};
