import { clsx } from 'clsx';
import { AutoComplete, Input, InputNumber, Select } from 'antd';
import type { siteFiles } from '@kleidon/core';
import { attributesFrom, linesOf } from './attributes.ts';
import type { Choices } from './choices.ts';
import { asList, asText, fromList } from './entry-value.ts';
import layout from '../style/layout.module.css';

/** The control for a field that has one value, or a list of texts. */
export function FieldControl({
  field,
  value,
  choices,
  errorId,
  onChange,
}: {
  field: siteFiles.FieldDeclaration;
  value: unknown;
  choices: Choices;
  /** What tells what is wrong with it; none where nothing is. */
  errorId?: string | undefined;
  onChange(value: unknown): void;
}) {
  const named = {
    'aria-label': field.title,
    ...(errorId === undefined
      ? {}
      : { status: 'error' as const, 'aria-invalid': true, 'aria-describedby': errorId }),
  };
  const { kind, isList, usual } = field;
  if (kind === 'integer' || field.choices.some((one) => typeof one === 'number'))
    return (
      <InputNumber
        {...named}
        value={typeof value === 'number' ? value : null}
        precision={0}
        onChange={(next) => onChange(next ?? undefined)}
      />
    );
  if (kind === 'choice' && isList === 'also')
    return (
      <Select
        {...named}
        mode="multiple"
        value={[...asList(value)]}
        onChange={(next: string[]) => onChange(fromList(next))}
        options={optionsOf(field.choices.map(String))}
      />
    );
  if (kind === 'choice')
    return (
      <Select
        {...named}
        value={asText(value) || asText(usual ?? field.choices[0]) || null}
        onChange={(next: string) => onChange(next)}
        options={optionsOf(field.choices.map(String))}
      />
    );
  if (kind === 'role' || kind === 'group')
    return (
      <Select
        {...named}
        mode="multiple"
        value={[...asList(value)]}
        onChange={(next: string[]) => onChange(next)}
        options={optionsOf(choices[`${kind}s`])}
      />
    );
  if (kind === 'product')
    return (
      <Select
        {...named}
        value={asText(value) || null}
        onChange={(next: string) => onChange(next)}
        options={optionsOf(choices.products)}
      />
    );
  if (isList === 'also')
    return (
      <Select
        {...named}
        mode="tags"
        value={[...asList(value)]}
        tokenSeparators={[' ', ',']}
        onChange={(next: string[]) => onChange(fromList(next))}
        options={kind === 'host' ? [] : optionsOf(choices.pages)}
      />
    );
  if (isList === 'always')
    return (
      <Select
        {...named}
        mode="tags"
        open={false}
        suffix={null}
        value={[...asList(value)]}
        tokenSeparators={[' ', ',']}
        onChange={(next: string[]) => onChange(next.length > 0 ? next : undefined)}
      />
    );
  if (kind === 'address' || kind === 'scope')
    return (
      <AutoComplete
        {...named}
        value={asText(value)}
        showSearch={{ filterOption: (typed, option) => option!.value.includes(typed) }}
        onChange={(next: string) => onChange(next || undefined)}
        options={choices.pages.map((one) => ({ value: one }))}
      />
    );
  if (kind === 'map')
    return (
      <Input.TextArea
        {...named}
        className={clsx(layout.code)}
        autoSize={{ minRows: 1, maxRows: 8 }}
        defaultValue={linesOf(value)}
        onChange={({ target }) => onChange(attributesFrom(target.value))}
      />
    );
  return (
    <Input
      {...named}
      placeholder={kind === 'moment' ? '2027-03-01' : undefined}
      value={asText(value)}
      onChange={({ target }) => onChange(target.value || undefined)}
    />
  );
}

const optionsOf = (names: readonly string[]) => names.map((one) => ({ value: one, label: one }));
