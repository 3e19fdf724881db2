/** A question about all visitors has more distinct cases than can be told apart: conditions that nobody writes by hand. */
export class TooManyCases extends Error {
  constructor() {
    super('The conditions of this site have too many distinct cases to be told apart.');
    this.name = 'TooManyCases';
  }
}
