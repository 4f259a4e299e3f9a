import { fileURLToPath, URL } from 'node:url';
import node from '@astrojs/node';
import react from '@astrojs/react';
import tailwindcss from '@tailwindcss/vite';
import { defineConfig } from 'astro/config';

/**
 * Zod tries whether it may make functions out of text, to check faster with them. The content security policy allows no page to do
 * so; without being told, each page that checks a form would be reported for trying.
 */
const withoutMadeFunctions = {
  name: 'zod-without-made-functions',
  transform(code, id) {
    if (!/zod\/v4\/core\/core\.js/.test(id)) return undefined;
    const changed = code.replace('__zod_globalConfig = {}', '__zod_globalConfig = { jitless: true }');
    if (changed === code)
      throw new Error('Zod keeps its settings elsewhere than it did: see astro.config.mjs');
    return { code: changed, map: null };
  },
};

/** React, with islands made and awakened by our own ends of it. */
const islands = () => {
  const integration = react();
  const at = (name) => fileURLToPath(new URL(`./src/ui/islands/${name}.ts`, import.meta.url));
  const setUp = integration.hooks['astro:config:setup'];
  integration.hooks['astro:config:setup'] = (options) =>
    setUp({
      ...options,
      addRenderer: (renderer) =>
        options.addRenderer({ ...renderer, serverEntrypoint: at('server'), clientEntrypoint: at('client') }),
    });
  return integration;
};

export default defineConfig({
  output: 'server',
  // Only what answers pages: the server around it is scripts/web.ts.
  // A page is sent whole: in pieces each of them would be compressed, and waited for, by itself.
  adapter: node({ mode: 'middleware', experimentalDisableStreaming: true }),
  integrations: [islands()],
  devToolbar: { enabled: false },
  // The middleware checks the origin of every change itself, with exceptions for signed links from mail.
  security: { checkOrigin: false },
  experimental: {
    csp: {
      directives: [
        "default-src 'self'",
        "img-src 'self' data:",
        // A video is shown from the file itself while its picture is taken, before it is sent.
        "media-src 'self' blob:",
        "font-src 'self'",
        "connect-src 'self'",
        "base-uri 'none'",
        "form-action 'self'",
        "frame-ancestors 'none'",
        "object-src 'none'",
      ],
      // The styles that packages put into the page themselves: of what is pressed (react-aria) and of toasts (sonner). With
      // another version of either the browser's tests fail at the first that is refused.
      styleDirective: {
        hashes: [
          'sha256-38RhXrc7EdReTKsOm23ZPOCUgniTUUcjky8QOOrQx6o=',
          'sha256-StEaX+se6YS7pqjzrzMIA0KaX9zF/8zAhvQXZAe5epY=',
        ],
      },
    },
  },
  vite: {
    plugins: [tailwindcss(), withoutMadeFunctions],
    ssr: {
      external: [
        'knex',
        'mysql2',
        'sharp',
        'file-type',
        '@node-rs/argon2',
        'pino',
        'prom-client',
        'rate-limiter-flexible',
      ],
    },
    build: { assetsInlineLimit: 0 },
  },
});
