export { readSite } from '../site/read/read.ts';
export type { ListOf } from '../site/read/redirect-list.ts';
export { planEdits, valueOf } from '../site/edit/plan-edits.ts';
export { afterSaved } from '../site/edit/put.ts';
export { changesBetween, patchBetween } from '../site/edit/edits-between.ts';
export { movedPages } from '../site/edit/move-page.ts';
export { patchSite, PatchProblem } from '../site/edit/patch.ts';
export {
  sectionDeclarations,
  siteDeclaration,
  type FieldDeclaration,
  type SectionDeclaration,
} from '../site/fields/declarations.ts';
export { siteFileSchema } from '../site/fields/json-schema.ts';
export { REDIRECT_COLUMNS } from '../site/fields/redirect-columns.ts';
export { redirectForList } from '../pattern/literally.ts';
export { redirectEntry } from '../redirects/redirect-entry.ts';
