/**
 * The pages of a table of which the service gives one at a time; none where one is enough.
 *
 * @param found how many rows there are in all
 * @param current the page that is shown, from 1
 * @param pageSize how many rows a page has
 */
export const pagesOf = (found: number, current: number, pageSize: number) =>
  found > pageSize ? { current, pageSize, total: found, showSizeChanger: false } : false;
