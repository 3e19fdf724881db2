/** The pages of the shop. */
import { ACTS, CARDS, PRODUCTS } from './till.mjs';

const escaped = (text) => String(text).replace(/[&<>"']/g, (one) => `&#${one.charCodeAt(0)};`);
const day = (moment) => moment.slice(0, 16).replace('T', ' ');

export const page = (title, body) => `<!doctype html>
<html lang="en">
<head>
<meta charset="utf-8">
<meta name="viewport" content="width=device-width">
<title>${escaped(title)} – Merrow Point shop</title>
<style>
:root { color-scheme: light dark }
body { font: 16px/1.5 system-ui, sans-serif; max-width: 60rem; margin: 0 auto; padding: 1rem 1.5rem 3rem }
nav a { margin-right: 1rem }
label { display: block; margin: .6rem 0 }
input, select, button { font: inherit; padding: .2em .5em }
table { border-collapse: collapse; width: 100%; font-size: .9rem }
th, td { text-align: left; vertical-align: top; padding: .3em .8em .3em 0; border-bottom: 1px solid #8886 }
td form { display: inline }
.wrong { border-left: 4px solid #b3261e; padding-left: .8rem }
code { overflow-wrap: anywhere }
</style>
</head>
<body>
<nav><a href="/">Shop</a><a href="/outbox">Outbox</a><a href="/owner">Owner</a></nav>
<h1>${escaped(title)}</h1>
${body}
</body>
</html>
`;

export const shelf = () =>
  page(
    'Merrow Point shop',
    `<p>This stands in for any shop. No card is charged here.</p><ul>${Object.entries(PRODUCTS)
      .map(
        ([name, { title, price, lasts }]) =>
          `<li><a href="/buy/${name}">${title}</a>, £${price}${lasts === null ? '' : ' a year'}</li>`,
      )
      .join('')}</ul>`,
  );

export function checkout(product, { back, email = '', problem = null }) {
  const { title, price, lasts } = PRODUCTS[product];
  const cards = Object.entries(CARDS).map(
    ([name, words]) => `<option value="${name}">${words}</option>`,
  );
  return page(
    `Buy: ${title}`,
    `${problem === null ? '' : `<p class="wrong" role="alert">${escaped(problem)}</p>`}
<form method="post"><input type="hidden" name="return" value="${escaped(back)}">
<p>£${price}${lasts === null ? '' : ' a year, renewed until you cancel'}</p>
<label>E-mail <input name="email" type="email" required autocomplete="email" value="${escaped(email)}"></label>
<label>Card <select name="card">${cards.join('')}</select></label>
<p><button>Pay £${price}</button></p></form>`,
  );
}

export const outbox = (mails) =>
  page(
    'Outbox',
    `<p>E-mails that the shop would send.</p>${mails.length === 0 ? '<p>None yet.</p>' : ''}${mails
      .map(
        ({ to, subject, words, link, at }) =>
          `<article><h2>${escaped(subject)}</h2><p>To ${escaped(to)}, ${day(at)}</p><p>${escaped(words)}</p>${
            link === null ? '' : `<p><a href="${escaped(link)}">Choose how to sign in</a></p>`
          }</article>`,
      )
      .join('<hr>')}`,
  );

const TITLES = {
  refund: 'Refund',
  'refund-part': 'Refund a part',
  pause: 'Pause',
  resume: 'Resume',
  cancel: 'Cancel renewal',
};

function stateOf({ isRefunded, isPaused, isCancelled }) {
  if (isRefunded) return 'refunded';
  return [isPaused ? 'paused' : 'active', ...(isCancelled ? ['not renewed'] : [])].join(', ');
}

export const owner = (till, events) =>
  page(
    'Owner',
    `<form method="post" action="/owner/clock">
<p>The clock of the shop says ${day(till.now())}. <button name="days" value="1">A day later</button>
<button name="days" value="30">30 days later</button> <button name="days" value="366">A year later</button></p>
<p>What falls due then is told as of its own time; Kleidon goes by the real time, and shows a time to come with <code>--at</code>.</p></form>
<h2>Orders</h2>
<table><thead><tr><th>Order</th><th>What</th><th>Buyer</th><th>Until</th><th>State</th><th></th></tr></thead><tbody>${till
      .orders()
      .map(
        (order) =>
          `<tr><td>${order.id}</td><td>${escaped(PRODUCTS[order.product].title)}</td><td>${escaped(order.email)}</td><td>${
            order.until === null ? 'without end' : day(order.until)
          }</td><td>${stateOf(order)}</td><td>${Object.keys(ACTS)
            .map(
              (act) =>
                `<form method="post" action="/owner/${order.id}"><button name="act" value="${act}" aria-label="${TITLES[act]} ${order.id}">${TITLES[act]}</button></form>`,
            )
            .join(' ')}</td></tr>`,
      )
      .join('')}</tbody></table>
<h2>A buyer has another address</h2>
<form method="post" action="/owner/move"><label>From <input name="from" type="email" required></label>
<label>To <input name="to" type="email" required></label><button>Change</button></form>
<h2>Events</h2>
<table><thead><tr><th>Event</th><th>What</th><th>State</th><th>Answer</th></tr></thead><tbody>${events
      .slice(0, 50)
      .map(
        ({ id, body, state, attempts, answer }) =>
          `<tr><td>${id.slice(0, 12)}</td><td><code>${escaped(body)}</code></td><td>${state}, ${attempts}×</td><td><code>${escaped(answer)}</code></td></tr>`,
      )
      .join('')}</tbody></table>`,
  );
