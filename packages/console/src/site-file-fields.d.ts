/** The fields of the site file as core declares them; vite.config.ts makes the module when the console is built. */
declare module 'virtual:site-file-fields' {
  import type { FieldDeclaration, SectionDeclaration } from '@kleidon/core';

  const declared: {
    readonly site: FieldDeclaration;
    readonly sections: readonly SectionDeclaration[];
    /** The words of conditions, each with what it means. */
    readonly conditionWords: Readonly<Record<string, string>>;
  };
  export default declared;
}
