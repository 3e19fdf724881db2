/** @jest-environment jest-fixed-jsdom */
import { render } from '@testing-library/react';
import { MemoryRouter } from 'react-router';
import type { ListedGate } from '@kleidon/client';
import { GateSentence } from '../src/entries/gate-sentence.tsx';

const GATE: ListedGate = {
  name: 'crew-room',
  right: 'view',
  scopes: ['/crew and all beneath it'],
  admits: 'anyone with the role crew',
  otherwise: [
    { who: 'guests', what: 'asked to sign in, and taken back afterwards' },
    { who: 'everyone', what: 'refused' },
  ],
  narrows: false,
  fullAccess: true,
  isInForce: true,
  above: [],
  inside: ['ringing-log'],
  pages: ['/crew'],
  line: 7,
};

const shown = (gate: Partial<ListedGate> = {}) => {
  const { container } = render(
    <MemoryRouter>
      <GateSentence gate={{ ...GATE, ...gate }} site="s" />
    </MemoryRouter>,
  );
  return container.textContent;
};

test('a gate reads as a sentence', () => {
  expect(shown()).toBe(
    '/crew and all beneath it: admits anyone with the role crew. Everyone else: guests, asked to sign in, and taken back afterwards; all others refused. Exceptions: ringing-log. ',
  );
});

test.each<[Partial<ListedGate>, string]>([
  [{ right: 'change' }, '(to change it)'],
  [{ narrows: true, above: ['outer'] }, 'The gate above must admit too. Inside: outer.'],
  [{ fullAccess: false }, 'Full access does not pass.'],
  [{ isInForce: false }, 'Not in force now.'],
])('and says what is unusual of it: %j', (gate, words) => {
  expect(shown(gate)).toContain(words);
  expect(shown()).not.toContain(words);
});

test('each part leads to its field', () => {
  const { container } = render(
    <MemoryRouter>
      <GateSentence gate={{ ...GATE, name: 'a&b', scopes: ['/x'] }} site="s" />
    </MemoryRouter>,
  );
  const fields = [...container.querySelectorAll('a')].map(({ href }) => {
    const query = new URL(href).searchParams;
    return [query.get('name'), query.get('field')];
  });
  expect(fields).toEqual([
    ['a&b', 'at'],
    ['a&b', 'admit'],
    ['a&b', 'otherwise'],
    ['ringing-log', null],
  ]);
});
