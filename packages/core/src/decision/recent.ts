/** What is known of the texts that were asked about lately: traffic keeps coming back to some. */
export class Recent<T> {
  #latest = new Map<string, T>();
  #before = new Map<string, T>();

  /**
   * @param most how many texts are remembered before the oldest of them are forgotten
   * @param longest how long each may be
   */
  constructor(
    private readonly most: number,
    private readonly longest: number,
  ) {}

  get(text: string): T | undefined {
    const known = this.#latest.get(text);
    if (known !== undefined) return known;
    const older = this.#before.get(text);
    if (older !== undefined) this.add(text, older);
    return older;
  }

  add(text: string, known: T): void {
    // What a hostile client sends must not take memory without bound.
    if (text.length > this.longest) return;
    if (this.#latest.size >= this.most) {
      this.#before = this.#latest;
      this.#latest = new Map();
    }
    this.#latest.set(text, known);
  }
}
