/** An answer that is saved as a file, and kept by nothing between. */
export const attachment = (name: string, type: string, body: BodyInit): Response =>
  new Response(body, {
    headers: {
      'content-type': type,
      'content-disposition': `attachment; filename*=UTF-8''${encodeURIComponent(name)}`,
      'cache-control': 'no-store',
    },
  });
