/** The fields of the site file as core declares them; vite.config.ts makes the module when the console is built. */
declare module 'virtual:site-file-fields' {
  import type { siteFiles } from '@kleidon/core';

  const declared: {
    readonly site: siteFiles.FieldDeclaration;
    readonly sections: readonly siteFiles.SectionDeclaration[];
    /** The words of conditions, each with what it means. */
    readonly conditionWords: Readonly<Record<string, string>>;
    /** The signs of comparisons, each with what it asks. */
    readonly comparisonSigns: Readonly<Record<string, string>>;
  };
  export default declared;
}
