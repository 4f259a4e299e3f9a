import renderer from '@astrojs/react/server.js';
import type { NamedSSRLoadedRendererValue, SSRLoadedRendererValue } from 'astro';
import { createElement, type ComponentType } from 'react';
import { renderToString } from 'react-dom/server';
import { Apart } from './apart.ts';

/** How many islands of a page have been made: what React numbers in each begins with its own letters. */
const made = new WeakMap<object, number>();

/**
 * Makes the HTML of an island in one go. The renderer of the package makes each component twice, once to see whether it is
 * React's, and both times through a stream of the web; every component here is React's, and none waits for anything while it is made.
 * Where a page puts something into an island, the package does it.
 */
const renderToStaticMarkup: SSRLoadedRendererValue['renderToStaticMarkup'] = async function (
  this: { result?: object } | undefined,
  Component,
  props: Record<string, unknown>,
  slots: Record<string, string>,
  metadata,
) {
  const given = Object.fromEntries(
    Object.entries(props).map(([name, value]) => [name, Apart.valueOf(value)]),
  );
  const filled = Object.values(slots).some((html) => html.trim() !== '');
  if (filled || !this?.result)
    return renderer.renderToStaticMarkup.call(this as never, Component, given, slots, metadata);
  const number = made.get(this.result) ?? 0;
  made.set(this.result, number + 1);
  const prefix = `i${number}`;
  const html = renderToString(createElement(Component as ComponentType, given), { identifierPrefix: prefix });
  return { html, attrs: { prefix } };
};

export default {
  ...renderer,
  check: () => Promise.resolve(true),
  renderToStaticMarkup,
} satisfies NamedSSRLoadedRendererValue;
