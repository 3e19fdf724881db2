/**
 * A small shop that stands in for any other: it sells three products for the website of Merrow Point, and
 * tells Kleidon what happens to each order.
 *
 *   node demo/shop/server.mjs --port 4794 --kleidon http://127.0.0.1:4780 --gateway http://127.0.0.1:4791
 */
import { mkdirSync } from 'node:fs';
import { join } from 'node:path';
import { parseArgs } from 'node:util';
import express from 'express';
import { checkout, outbox, owner, page, shelf } from './pages.mjs';
import { senderTo } from './sender.mjs';
import { ACTS, CARDS, PRODUCTS, tillAt } from './till.mjs';

const { values: options } = parseArgs({
  options: {
    port: { type: 'string', default: '4794' },
    /** Where Kleidon takes events. */
    kleidon: { type: 'string', default: 'http://127.0.0.1:4780' },
    name: { type: 'string', default: 'observatory' },
    secret: { type: 'string', default: `whsec_${Buffer.alloc(32, 'demo').toString('base64')}` },
    /** Where the website is: nobody is sent anywhere else. */
    gateway: { type: 'string', default: 'http://127.0.0.1:4791' },
    /** The folder in which orders and events are kept. */
    data: { type: 'string', default: '.demo/shop' },
  },
});

mkdirSync(options.data, { recursive: true });
const sender = senderTo(
  `${options.kleidon}/api/shops/${options.name}/events`,
  options.secret,
  join(options.data, 'events.json'),
);
const till = tillAt(join(options.data, 'orders.json'), (told) => sender.tell(told));

const app = express();
app.use(express.urlencoded({ extended: false, limit: '10kb' }));
// A form of another site could give everyone their money back.
app.use((request, response, next) => {
  const { origin, host } = request.headers;
  if (request.method !== 'POST' || origin === `http://${host}`) next();
  else response.status(403).send(page('Not from here', '<p>This form is not one of ours.</p>'));
});

/** A page of the website, whoever says where people go back to. */
function pageFrom(back, product) {
  const usual = PRODUCTS[product].page;
  if (!URL.canParse(back ?? '', options.gateway)) return usual;
  const { origin, pathname, search } = new URL(back || usual, options.gateway);
  return origin === new URL(options.gateway).origin ? pathname + search : usual;
}
const website = (path, page) => `${options.gateway}${path}return=${encodeURIComponent(page)}`;

app.get('/', (_, response) => response.send(shelf()));
app.get('/outbox', (_, response) => response.send(outbox(till.mails())));
app.get('/owner', (_, response) => response.send(owner(till, sender.events())));
app
  .route('/buy/:product')
  .all((request, response, next) => {
    if (Object.hasOwn(PRODUCTS, request.params.product)) next();
    else response.status(404).send(page('Not sold here', '<p>There is no such product.</p>'));
  })
  .get((request, response) => {
    const { product } = request.params;
    const back = pageFrom(String(request.query.return ?? ''), product);
    response.send(checkout(product, { back }));
  })
  .post((request, response) => {
    const { product } = request.params;
    const { card = '' } = request.body;
    const email = String(request.body.email ?? '')
      .trim()
      .toLowerCase();
    const back = pageFrom(String(request.body.return ?? ''), product);
    const again = (status, problem) =>
      response.status(status).send(checkout(product, { back, email, problem }));
    if (!/^[^@\s]+@[^@\s]+$/.test(email)) return again(400, 'An e-mail address is needed.');
    if (!Object.hasOwn(CARDS, card)) return again(400, 'Choose a card.');
    const order = till.sell(product, email, card, website('/.kleidon/sign-in?bought=yes&', back));
    if (order === null) return again(402, 'Your card was declined. Nothing was charged.');
    return response.redirect(303, website('/.kleidon/bought?', back));
  });
app.post('/owner/clock', (request, response) => {
  const days = Number(request.body.days);
  if (days > 0 && days <= 366) till.advance(days);
  response.redirect(303, '/owner');
});
app.post('/owner/move', (request, response) => {
  const [from, to] = [request.body.from, request.body.to].map((one) => String(one).toLowerCase());
  till.move(from, to);
  response.redirect(303, '/owner');
});
app.post('/owner/:order', (request, response) => {
  const order = till.find(request.params.order);
  const { act } = request.body;
  if (!order || !Object.hasOwn(ACTS, act))
    return response.status(404).send(page('Nothing here', '<p>There is no such order.</p>'));
  till.act(order, act);
  return response.redirect(303, '/owner');
});

const server = app.listen(Number(options.port), '127.0.0.1', () => {
  console.log(`The shop is at http://127.0.0.1:${server.address().port}`);
});
for (const signal of ['SIGINT', 'SIGTERM']) process.on(signal, () => process.exit(0));
