export { readSitemap, SitemapProblem } from '../formats/sitemap.ts';
export { asXmlText, writeJunit, type TestCase } from '../formats/junit.ts';
export { CsvSyntaxError, writeTable } from '../formats/csv.ts';
export { readInstant } from '../time/instant.ts';
