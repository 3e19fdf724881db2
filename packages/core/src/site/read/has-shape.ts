import * as yup from 'yup';
import type { ErrorList, YamlPath } from '../yaml/document.ts';
import type { Complaint } from '../fields/schema-kinds.ts';

/** Whether a value has the shape that a schema asks for; what is wrong with it goes to `list`. */
export function hasShape(
  schema: yup.Schema,
  value: unknown,
  path: YamlPath,
  list: ErrorList,
): boolean {
  if (value === null && schema.type === 'object') {
    list.atKey('wrong-type', path, `"${path.at(-1)}" is empty.`, 'Write its fields, or remove it.');
    return false;
  }
  try {
    schema.validateSync(value, { strict: true, abortEarly: false });
    return true;
  } catch (error) {
    if (!(error instanceof yup.ValidationError)) throw error;
    for (const one of error.inner.length > 0 ? error.inner : [error]) report(one, path, list);
    return false;
  }
}

function report(error: yup.ValidationError, path: YamlPath, list: ErrorList): void {
  const steps = (error.path ?? '').split(/[.[\]]+/).filter((step) => step !== '');
  const whole = [...path, ...steps.map((step) => (/^\d+$/.test(step) ? Number(step) : step))];
  const { code, remedy } = (error.params ?? {}) as Partial<Complaint>;
  const message = error.message.replace('"This"', `"${path.at(-1)}"`);
  if (code === 'unknown-field' || code === 'missing-field' || code === 'not-yet') {
    list.atKey(
      code,
      code === 'missing-field' && steps.length > 0 ? whole.slice(0, -1) : whole,
      message,
      remedy!,
    );
  } else {
    list.atValue(
      code ?? 'wrong-type',
      whole,
      message,
      remedy ?? 'See docs/site-file.md for what may stand here.',
    );
  }
}
