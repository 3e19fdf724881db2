import { dirname } from 'node:path';
import { fileURLToPath } from 'node:url';
import express, { Router } from 'express';

const VIEWER = dirname(fileURLToPath(import.meta.resolve('swagger-ui-dist/package.json')));

const PAGE = `<!doctype html>
<html lang="en">
  <head>
    <meta charset="utf-8" />
    <meta name="viewport" content="width=device-width, initial-scale=1" />
    <title>Kleidon: HTTP API</title>
    <link rel="icon" href="data:," />
    <link rel="stylesheet" href="/api/reference/swagger-ui.css" />
  </head>
  <body>
    <main id="reference"></main>
    <script src="/api/reference/swagger-ui-bundle.js"></script>
    <script src="/api/reference/start.js"></script>
  </body>
</html>
`;

/** The policy for content allows no script in a page. */
const START = `SwaggerUIBundle({
  url: '/api/openapi.json',
  dom_id: '#reference',
  deepLinking: true,
  docExpansion: 'list',
  defaultModelsExpandDepth: -1,
  tryItOutEnabled: false,
});
`;

/** The description of the API as pages to read, at /api/; each call can be tried there. */
export function referenceRouter(): Router {
  const router = Router();
  router.get('/api', (request, response, next) => {
    if (request.originalUrl.startsWith('/api/')) next();
    else response.redirect(301, '/api/');
  });
  router.get('/api/', (_request, response) => void response.type('html').send(PAGE));
  router.get('/api/reference/start.js', (_request, response) => {
    response.type('text/javascript').send(START);
  });
  for (const file of ['swagger-ui.css', 'swagger-ui-bundle.js'])
    router.use(`/api/reference/${file}`, express.static(`${VIEWER}/${file}`));
  return router;
}
