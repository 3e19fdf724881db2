import type { model } from '@kleidon/core';

/** A value as it stands in a field of its own: text needs no quotes there. */
export function writeValue(value: model.Value): string {
  switch (value.is) {
    case 'string':
      return value.value;
    case 'number':
      return String(value.value);
    case 'date':
      return value.text;
    case 'language':
      return 'language';
    case 'list':
      return value.of.map(writeValue).join(', ');
    default:
      return `${value.is}.${value.name}`;
  }
}

/** Reads a field back; several values with commas between are a list. Null where nothing stands there. */
export function readValue(text: string): model.Value | null {
  const items = text.split(',').map((item) => item.trim());
  if (items.length > 1) return { is: 'list', of: items.filter((item) => item !== '').map(readOne) };
  return items[0] === '' ? null : readOne(items[0]!);
}

function readOne(text: string): model.Value {
  const named = /^(visitor|path|query)\.([\p{L}_][\p{L}\p{N}_-]*)$/u.exec(text);
  if (named) return { is: named[1] as 'visitor', name: named[2]! };
  if (text === 'language') return { is: 'language' };
  if (/^-?\d+(\.\d+)?$/.test(text)) return { is: 'number', value: Number(text) };
  if (/^\d{4}-\d{2}-\d{2}$/.test(text)) return { is: 'date', text };
  return { is: 'string', value: text.replace(/^(["'])(.*)\1$/, '$2') };
}
