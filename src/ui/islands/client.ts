import hydrate from '@astrojs/react/client.js';

/** What an island is given, with what was written apart from it (see `apart.ts`) put in its place. */
function whole(props: Record<string, unknown>): Record<string, unknown> {
  for (const [name, value] of Object.entries(props)) {
    const id = (value as { $apart?: unknown } | null)?.$apart;
    if (typeof id === 'string')
      props[name] = JSON.parse(document.getElementById(id)?.textContent ?? 'null') as unknown;
  }
  return props;
}

export default (element: HTMLElement): ReturnType<typeof hydrate> => {
  const into = hydrate(element);
  return (Component, props, slots, directive) => into(Component, whole(props), slots, directive);
};
