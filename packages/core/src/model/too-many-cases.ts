/** A question about all visitors, or all addresses of a page, has more distinct cases than can be told apart. */
export class TooManyCases extends Error {
  constructor() {
    super('There are more distinct cases than can be told apart.');
    this.name = 'TooManyCases';
  }
}
