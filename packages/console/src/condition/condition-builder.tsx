import { Button, Input, Select } from 'antd';
import type { model } from '@kleidon/core';
import { readValue, writeValue } from './values.ts';
import { clsx } from 'clsx';
import css from './condition.module.css';
import layout from '../style/layout.module.css';

/** The names that a condition may use. */
export interface KnownNames {
  readonly role: readonly string[];
  readonly group: readonly string[];
  readonly product: readonly string[];
  readonly audience: readonly string[];
  readonly person: readonly string[];
}

interface Props {
  readonly label: string;
  readonly names: KnownNames;
  /** null where there is none yet; undefined where what was typed can't be read. */
  readonly condition: model.Condition | null | undefined;
  onChange(condition: model.Condition): void;
}

/** What a new choice says until it is changed. */
const SIGNED_IN: model.Condition = { is: 'signed-in' };

/** Builds a condition from choices. */
export function ConditionBuilder({ label, names, condition, onChange }: Props) {
  if (condition === undefined) return null;
  if (condition === null)
    return (
      <Button size="small" onClick={() => onChange(SIGNED_IN)}>
        Build one from choices
      </Button>
    );
  return (
    <div className={css.builder} role="group" aria-label={`${label}, from choices`}>
      <Part condition={condition} names={names} onChange={onChange} onRemove={null} />
    </div>
  );
}

interface PartProps {
  readonly condition: model.Condition;
  readonly names: KnownNames;
  onChange(condition: model.Condition): void;
  readonly onRemove: (() => void) | null;
}

function Part({ condition, names, onChange, onRemove }: PartProps) {
  if (condition.is === 'or' || condition.is === 'and')
    return <Several {...{ condition, names, onChange, onRemove }} />;
  const isNot = condition.is === 'not';
  const inner = isNot ? condition.of : condition;
  const put = (next: model.Condition): void => onChange(isNot ? { is: 'not', of: next } : next);
  const isGroup = inner.is === 'or' || inner.is === 'and';
  return (
    <div className={isGroup ? css.negated : css.choice}>
      <Select
        size="small"
        aria-label="Is or is not"
        value={isNot ? 'not' : 'is'}
        popupMatchSelectWidth={false}
        onChange={(next) => onChange(next === 'not' ? { is: 'not', of: inner } : inner)}
        options={[
          { value: 'is', label: 'is' },
          { value: 'not', label: 'is not' },
        ]}
      />
      {isGroup ? (
        <Several condition={inner} names={names} onChange={put} onRemove={onRemove} />
      ) : (
        <>
          <Atom condition={inner} names={names} onChange={put} />
          {onRemove === null ? (
            <Join condition={condition} onChange={onChange} />
          ) : (
            <Button size="small" aria-label="Remove this choice" onClick={onRemove}>
              ×
            </Button>
          )}
        </>
      )}
    </div>
  );
}

/** A single choice becomes several. */
function Join({ condition, onChange }: Pick<PartProps, 'condition' | 'onChange'>) {
  const join = (is: 'or' | 'and') => () => onChange({ is, of: [condition, SIGNED_IN] });
  return (
    <>
      <Button size="small" onClick={join('or')}>
        or …
      </Button>
      <Button size="small" onClick={join('and')}>
        and …
      </Button>
    </>
  );
}

function Several({
  condition,
  names,
  onChange,
  onRemove,
}: PartProps & { condition: Extract<model.Condition, { is: 'or' | 'and' }> }) {
  const { is, of } = condition;
  const other = is === 'or' ? 'and' : 'or';
  const without = (position: number): model.Condition => {
    const rest = of.filter((_, i) => i !== position);
    return rest.length === 1 ? rest[0]! : { is, of: rest };
  };
  return (
    <div className={css.several} role="group" aria-label={is === 'or' ? 'Any of' : 'All of'}>
      <div className={css.choice}>
        <Select
          size="small"
          aria-label="Any or all"
          value={is}
          popupMatchSelectWidth={false}
          onChange={(next) => onChange({ is: next, of })}
          options={[
            { value: 'or', label: 'any of these' },
            { value: 'and', label: 'all of these' },
          ]}
        />
        <Button size="small" onClick={() => onChange({ is, of: [...of, SIGNED_IN] })}>
          Add a choice
        </Button>
        <Button
          size="small"
          onClick={() =>
            onChange({ is, of: [...of, { is: other, of: [SIGNED_IN, { is: 'guest' }] }] })
          }
        >
          Add {other === 'or' ? 'any of' : 'all of'}
        </Button>
        {onRemove && (
          <Button size="small" aria-label="Remove these choices" onClick={onRemove}>
            ×
          </Button>
        )}
      </div>
      {of.map((one, position) => (
        <Part
          key={position}
          condition={one}
          names={names}
          onChange={(next) => onChange({ is, of: of.with(position, next) })}
          onRemove={() => onChange(without(position))}
        />
      ))}
    </div>
  );
}

type AskedPurchase = Extract<model.Condition, { is: 'bought' }>['state'];
type AtomKind = 'role' | 'group' | 'person' | AskedPurchase | 'audience' | 'compare' | Simple;
type Simple = 'anyone' | 'nobody' | 'guest' | 'signed-in';

const KINDS: readonly (readonly [AtomKind, string])[] = [
  ['anyone', 'anyone'],
  ['guest', 'a guest'],
  ['signed-in', 'signed in'],
  ['role', 'with the role'],
  ['group', 'in the group'],
  ['person', 'the person'],
  ['in-force', 'a buyer, in force, of'],
  ['ever', 'ever a buyer of'],
  ['lapsed', 'a buyer, run out, of'],
  ['paused', 'a buyer, paused, of'],
  ['refunded', 'a buyer, refunded, of'],
  ['audience', 'of the audience'],
  ['compare', 'someone for whom'],
  ['nobody', 'nobody'],
];

const OF_PURCHASES: readonly AtomKind[] = ['in-force', 'ever', 'lapsed', 'paused', 'refunded'];
const isOfPurchases = (kind: AtomKind): kind is AskedPurchase => OF_PURCHASES.includes(kind);

function Atom({ condition, names, onChange }: Omit<PartProps, 'onRemove'>) {
  const kind: AtomKind = condition.is === 'bought' ? condition.state : (condition.is as AtomKind);
  const known = namesFor(kind, names);
  const name =
    'name' in condition ? condition.name : 'product' in condition ? condition.product : '';
  return (
    <>
      <Select
        size="small"
        aria-label="Kind of choice"
        value={kind}
        popupMatchSelectWidth={false}
        onChange={(next) => onChange(atomOf(next, namesFor(next, names)?.[0] ?? ''))}
        options={KINDS.filter(
          ([value]) => value === kind || namesFor(value, names)?.length !== 0,
        ).map(([value, label]) => ({ value, label }))}
      />
      {known && (
        <Select
          size="small"
          aria-label="Which"
          showSearch
          value={name}
          popupMatchSelectWidth={false}
          onChange={(next: string) => onChange(atomOf(kind, next))}
          options={known.map((value) => ({ value, label: value }))}
        />
      )}
      {condition.is === 'compare' && <Comparison condition={condition} onChange={onChange} />}
    </>
  );
}

function namesFor(kind: AtomKind, names: KnownNames): readonly string[] | null {
  if (isOfPurchases(kind)) return names.product;
  return kind === 'role' || kind === 'group' || kind === 'person' || kind === 'audience'
    ? names[kind]
    : null;
}

function atomOf(kind: AtomKind, name: string): model.Condition {
  if (isOfPurchases(kind)) return { is: 'bought', product: name, state: kind };
  switch (kind) {
    case 'role':
    case 'group':
    case 'person':
    case 'audience':
      return { is: kind, name };
    case 'compare':
      return {
        is: 'compare',
        left: { is: 'visitor', name: 'id' },
        operator: '=',
        right: { is: 'string', value: 'x' },
      };
    default:
      return { is: kind };
  }
}

const OPERATORS: readonly model.Operator[] = ['=', '!=', '<', '<=', '>', '>=', 'in'];

function Comparison({
  condition,
  onChange,
}: {
  condition: Extract<model.Condition, { is: 'compare' }>;
  onChange(condition: model.Condition): void;
}) {
  const side = (which: 'left' | 'right', label: string) => (
    <Input
      key={`${which} ${writeValue(condition[which])}`}
      size="small"
      className={clsx(layout.code, css.value)}
      aria-label={label}
      defaultValue={writeValue(condition[which])}
      onBlur={({ target }) => {
        const isChanged = target.value !== writeValue(condition[which]);
        const value: model.Value | null = isChanged ? readValue(target.value) : null;
        if (value) onChange({ ...condition, [which]: value });
      }}
      onPressEnter={({ currentTarget }) => currentTarget.blur()}
    />
  );
  return (
    <>
      {side('left', 'What is compared')}
      <Select
        size="small"
        aria-label="How"
        value={condition.operator}
        popupMatchSelectWidth={false}
        onChange={(operator) => onChange({ ...condition, operator })}
        options={OPERATORS.map((value) => ({ value, label: value }))}
      />
      {side('right', 'With what')}
    </>
  );
}
