import * as yup from 'yup';

/** Fields that sections of the settings share. */
export const text = () => yup.string().strict();

/** Protocol and host, and nothing else. */
export const origin = (field: string) =>
  yup
    .string()
    .strict()
    .test(
      'origin',
      `"${field}" is protocol and host, such as http://127.0.0.1:9000.`,
      (value) => value === undefined || isOrigin(value),
    );

function isOrigin(value: string): boolean {
  if (!URL.canParse(value)) return false;
  const { protocol, pathname, search, hash, username } = new URL(value);
  return /^https?:$/.test(protocol) && pathname === '/' && !search && !hash && !username;
}

/** Settings that had another name before. */
const RENAMED: Readonly<Record<string, string>> = {
  patience: 'origin-timeout',
  'reached-at': 'public-address',
  'keep-days': 'retention-days',
  'stand-in': 'test-provider',
};

/** What is said of names that are no settings. */
export const noOthers = ({ unknown }: { unknown?: string }): string =>
  (unknown ?? '')
    .split(', ')
    .map((name) =>
      RENAMED[name] === undefined
        ? `"${name}" is not a setting here.`
        : `"${name}" is called "${RENAMED[name]}" now.`,
    )
    .join(' ');
