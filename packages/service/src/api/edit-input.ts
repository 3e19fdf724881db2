import * as yup from 'yup';
import type { model } from '@kleidon/core';
import { validated } from './input.ts';
import { Problem } from './problem.ts';

const NAMED: readonly model.NamedSection[] = [
  'site',
  'roles',
  'groups',
  'products',
  'audiences',
  'pages',
  'gates',
  'parts',
  'menus',
  'visitors',
];
const LISTS: readonly model.ListSection[] = [
  'redirects',
  'redirect-lists',
  'rewrites',
  'not-found',
  'landings',
  'accepted',
];
const RENAMED = NAMED.filter((section) => section !== 'site' && section !== 'pages');

const LONGEST = 200_000;
const LONGEST_OF_MANY = 5_000_000;
const MOST_ITEMS = 5000;

const text = (field: string) => yup.string().strict().defined(`"${field}" is missing.`);
const flag = (field: string) => yup.boolean().strict().required(`"${field}" is missing.`);
const oneOf = (field: string, sections: readonly string[]) =>
  text(field).oneOf(sections, `"${field}" is one of ${sections.join(', ')}.`);
const anything = (field: string) =>
  yup
    .mixed()
    .nullable()
    .test('there', `"${field}" is missing.`, (value) => value !== undefined);

/** What each kind of edit says besides `do`. */
const SHAPES: Readonly<Record<model.Edit['do'], yup.ObjectShape>> = {
  put: { section: oneOf('section', NAMED), name: text('name'), value: anything('value') },
  remove: { section: oneOf('section', NAMED), name: text('name') },
  'put-item': {
    section: oneOf('section', LISTS),
    was: anything('was'),
    value: anything('value'),
  },
  'put-items': {
    section: oneOf('section', LISTS),
    items: yup
      .array(yup.object({ was: anything('was'), value: anything('value') }).noUnknown())
      .strict()
      .required('"items" is missing.')
      .max(MOST_ITEMS, `"items" has at most ${MOST_ITEMS} entries.`),
  },
  rename: { section: oneOf('section', RENAMED), name: text('name'), to: text('to') },
  'move-page': {
    from: text('from'),
    to: text('to'),
    beneath: flag('beneath'),
    redirect: flag('redirect'),
  },
  'copy-settings': { from: text('from'), to: text('to') },
};

/** An edit as a client sent it. Throws `wrong-request`. */
export function editFrom(value: unknown): model.Edit {
  const kind = (value as { do?: unknown } | null)?.do;
  if (typeof kind !== 'string' || !Object.hasOwn(SHAPES, kind)) {
    const kinds = Object.keys(SHAPES).join(', ');
    throw new Problem('wrong-request', `"do" of an edit is one of ${kinds}.`);
  }
  const longest = kind === 'put-items' ? LONGEST_OF_MANY : LONGEST;
  if (JSON.stringify(value).length > longest)
    throw new Problem('wrong-request', `An edit is at most ${longest} characters long.`);
  const schema = yup
    .object({ do: yup.string().strict().required(), ...SHAPES[kind as model.Edit['do']] })
    .noUnknown('"${unknown}" is not a field of this edit.');
  return validated(schema, value) as unknown as model.Edit;
}
