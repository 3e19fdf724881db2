/** A process of the gateway's bench: the website, or one of the proxies that the gateway is compared with. */
import { Agent, createServer, request as ask } from 'node:http';
import httpProxy from 'http-proxy';

const [what, origin] = process.argv.slice(2);
const PAGE = `<!doctype html><title>A page</title>${'<p>Some words about birds.</p>'.repeat(100)}`;
const agent = new Agent({ keepAlive: true, maxSockets: 256 });

const SERVERS = {
  website: () =>
    createServer((request, response) => {
      response.setHeader('Content-Type', 'text/html; charset=utf-8');
      response.end(PAGE);
    }),
  bare: () =>
    createServer((request, response) => {
      const asked = ask(
        origin + request.url,
        { method: request.method, headers: request.headers, agent },
        (answer) => {
          response.writeHead(answer.statusCode, answer.headers);
          answer.pipe(response);
        },
      );
      request.pipe(asked);
    }),
  'http-proxy': () => {
    const proxy = httpProxy.createProxyServer({ target: origin, agent });
    return createServer((request, response) => proxy.web(request, response));
  },
};
const server = SERVERS[what]();
server.listen(0, '127.0.0.1', () => console.log(`at http://127.0.0.1:${server.address().port}`));
