import XMLBuilder from 'fast-xml-builder';

/** One check of a report. */
export interface TestCase {
  readonly suite: string;
  readonly name: string;
  /** What went wrong, in a line; null where nothing did. */
  readonly failure: string | null;
  /** Why it was not done; null where it was. */
  readonly skipped: string | null;
}

const builder = new XMLBuilder({ format: true, indentBy: '  ', ignoreAttributes: false });

/** Writes a report in the form of JUnit's XML that build servers read: a suite for each group of checks. */
export function writeJunit(name: string, cases: readonly TestCase[]): string {
  const suites = new Map<string, TestCase[]>();
  for (const one of cases) suites.set(one.suite, [...(suites.get(one.suite) ?? []), one]);
  const count = (list: readonly TestCase[]) => ({
    '@_tests': list.length,
    '@_failures': list.filter(({ failure }) => failure !== null).length,
    '@_skipped': list.filter(({ skipped }) => skipped !== null).length,
  });
  const xml = builder.build({
    '?xml': { '@_version': '1.0', '@_encoding': 'UTF-8' },
    testsuites: {
      '@_name': name,
      ...count(cases),
      testsuite: [...suites].map(([suite, list]) => ({
        '@_name': suite,
        ...count(list),
        testcase: list.map((one) => ({
          '@_classname': suite,
          '@_name': one.name,
          ...(one.failure === null ? {} : { failure: { '@_message': one.failure } }),
          ...(one.skipped === null ? {} : { skipped: { '@_message': one.skipped } }),
        })),
      })),
    },
  });
  return asXmlText(xml.endsWith('\n') ? xml : `${xml}\n`);
}

/** Replaces characters that XML 1.0 (2.2) and HTML do not allow. */
export const asXmlText = (text: string): string =>
  text.replace(
    /[^\t\n\r\u0020-\u007e\u0085\u00a0-\ud7ff\ue000-\ufffd\u{10000}-\u{10ffff}]/gu,
    '\ufffd',
  );
