import type { model } from '@kleidon/core';
import { readValue, writeValue } from '../src/condition/values.ts';

test.each<[string, model.Value]>([
  ['robin', { is: 'string', value: 'robin' }],
  ['"robin"', { is: 'string', value: 'robin' }],
  ['12', { is: 'number', value: 12 }],
  ['-1.5', { is: 'number', value: -1.5 }],
  ['2027-03-01', { is: 'date', text: '2027-03-01' }],
  ['visitor.id', { is: 'visitor', name: 'id' }],
  ['path.lesson', { is: 'path', name: 'lesson' }],
  ['query.tab', { is: 'query', name: 'tab' }],
  ['language', { is: 'language' }],
  [
    'en, 3',
    {
      is: 'list',
      of: [
        { is: 'string', value: 'en' },
        { is: 'number', value: 3 },
      ],
    },
  ],
])('%s is read, and written as it was', (text, value) => {
  expect(readValue(text)).toEqual(value);
  expect(readValue(writeValue(value))).toEqual(value);
});

test('an empty field is no value', () => {
  expect([readValue(''), readValue('  ')]).toEqual([null, null]);
});
