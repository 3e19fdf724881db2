/** What the shop sells, and what happens to each order. Its clock can be advanced. */
import { randomUUID } from 'node:crypto';
import { readFileSync, writeFileSync } from 'node:fs';

const DAY = 86_400_000;
const YEAR = 365 * DAY;

/** What is sold; `page` is where whoever bought it goes, if they wanted no other page. */
export const PRODUCTS = {
  'hide-permit': { title: 'Hide permit', price: 24, lasts: YEAR, page: '/permit' },
  'field-guide': { title: 'Field guide', price: 12, lasts: null, page: '/field-guide/waders' },
  'song-course': { title: 'Song course', price: 30, lasts: null, page: '/song-course/1' },
};

/** Invented cards, and what happens with each. */
export const CARDS = {
  puffin: 'Puffin card (it is accepted)',
  gannet: 'Gannet card (it is declined)',
  skua: 'Skua card (it is accepted, and charged back a day later)',
};

/**
 * A till with its orders, which are kept in a file.
 *
 * @param tell is told what happened, as an event of the API
 */
export function tillAt(file, tell) {
  const state = read(file) ?? { ahead: 0, orders: [], mails: [] };
  const keep = () => writeFileSync(file, JSON.stringify(state));
  const now = () => Date.now() + state.ahead;
  const iso = (at) => new Date(at).toISOString();
  const said = (type, data, at = now()) => tell({ type, timestamp: iso(at), data });
  const about = (type, order, more = {}, at = now()) =>
    said(type, { purchase: order.id, ...more }, at);
  const mail = (to, subject, words, link = null) =>
    state.mails.unshift({ to, subject, words, link, at: iso(now()) });

  /** What happens to orders as time passes, each at its own time. */
  const pass = (until) => {
    for (const order of state.orders) {
      if (order.card === 'skua' && !order.isRefunded && Date.parse(order.at) + DAY <= until) {
        order.isRefunded = true;
        about('purchase.charged-back', order, {}, Date.parse(order.at) + DAY);
      }
      while (isRenewed(order) && Date.parse(order.until) <= until) {
        const due = Date.parse(order.until);
        order.until = iso(due + PRODUCTS[order.product].lasts);
        about('purchase.renewed', order, { until: order.until }, due);
        mail(order.email, `Renewed: ${PRODUCTS[order.product].title}`, `Until ${order.until}.`);
      }
    }
    keep();
  };

  return {
    orders: () => state.orders,
    mails: () => state.mails,
    find: (id) => state.orders.find((one) => one.id === id) ?? null,
    now: () => iso(now()),
    /** Sells a product. Gives null where the card is declined. */
    sell(product, email, card, signIn) {
      if (card === 'gannet') return null;
      const { title, price, lasts } = PRODUCTS[product];
      const isFirst = !state.orders.some((one) => one.email === email);
      const order = {
        id: `order-${randomUUID().slice(0, 8)}`,
        ...{ product, email, card, at: iso(now()) },
        until: lasts === null ? null : iso(now() + lasts),
        ...{ isPaused: false, isRefunded: false, isCancelled: false },
      };
      state.orders.unshift(order);
      const until = order.until === null ? {} : { until: order.until };
      about('purchase.made', order, { product, email, ...until });
      mail(email, `Receipt: ${title}`, `You paid £${price}. Your order is ${order.id}.`);
      if (isFirst)
        mail(email, 'Choose how to sign in', 'Sign in with this address to use it.', signIn);
      keep();
      return order;
    },
    /** Something that the owner does with an order. */
    act(order, what) {
      if (what === 'refund') order.isRefunded = true;
      if (what === 'pause' || what === 'resume') order.isPaused = what === 'pause';
      if (what === 'cancel') order.isCancelled = true;
      const [type, more] = ACTS[what];
      about(type, order, more);
      keep();
    },
    /** A buyer has another address from now on. */
    move(formerEmail, email) {
      for (const order of state.orders) if (order.email === formerEmail) order.email = email;
      said('buyer.moved', { formerEmail, email });
      keep();
    },
    /** Lets days pass: what falls due happens, and is told as of its own time. */
    advance(days) {
      state.ahead += days * DAY;
      pass(now());
    },
  };
}

/** What the owner can do with an order, and what is told of it. */
export const ACTS = {
  refund: ['purchase.refunded', {}],
  'refund-part': ['purchase.refunded', { partly: true }],
  pause: ['purchase.paused', {}],
  resume: ['purchase.resumed', {}],
  cancel: ['purchase.cancelled', {}],
};

const isRenewed = ({ until, isRefunded, isCancelled, isPaused }) =>
  until !== null && !isRefunded && !isCancelled && !isPaused;

function read(file) {
  try {
    return JSON.parse(readFileSync(file, 'utf8'));
  } catch (error) {
    if (error.code === 'ENOENT') return null;
    throw error;
  }
}
