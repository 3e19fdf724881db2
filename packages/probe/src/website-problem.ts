/** A website can't be read: it is not there, or it fails to say what may be read. */
export class WebsiteProblem extends Error {
  constructor(
    message: string,
    readonly isUnreachable: boolean,
  ) {
    super(message);
  }
}
