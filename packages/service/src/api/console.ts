import { existsSync } from 'node:fs';
import { join } from 'node:path';
import express, { Router } from 'express';
import staticGzip from 'express-static-gzip';

/** The addresses of the console's pages, as its own routes have them. */
const PAGES =
  /^\/(?:sites\/[^/]+(?:\/(?:pages|review|reach(?:\/(?:address|expected|kinds|list))?|visitors(?:\/(?:products|purchases|buyers|events))?|file(?:\/(?:settings|deletion))?|(?:access|addresses)(?:\/[a-z-]+)?|releases(?:\/(?:compare|history))?|live(?:\/[a-z-]+)?))?\/?)?$/;

/** Serves the built console: its files as they are, and its one page for every address of its own. */
export function consoleRouter(folder: string): Router {
  const router = Router();
  const page = join(folder, 'index.html');
  const assets = join(folder, 'assets');
  if (existsSync(assets))
    router.use(
      '/assets',
      // The build has compressed them; answers of the API are sent as they are, for their length could tell something.
      staticGzip(assets, {
        enableBrotli: true,
        orderPreference: ['br'],
        serveStatic: { immutable: true, maxAge: '1y', fallthrough: false },
      }),
    );
  router.use(express.static(folder, { index: false }));
  router.get(/^/, (request, response, next) => {
    const isPage = PAGES.test(request.path);
    // Whoever looks at it is told by the console that nothing is there; programs get a problem document.
    if (!existsSync(page) || (!isPage && request.accepts(['json', 'html']) !== 'html')) {
      next();
      return;
    }
    // The page names its assets by their content, and so must itself be asked for each time.
    response
      .status(isPage ? 200 : 404)
      .set('Cache-Control', 'no-cache')
      .sendFile(page);
  });
  return router;
}
