/** How many texts are remembered before the oldest of them are forgotten, and how long each may be. */
const MOST = 1024;
const LONGEST = 256;

/** What is known of the texts that were asked about lately: traffic keeps coming back to some. */
export class Recent<T> {
  #latest = new Map<string, T>();
  #before = new Map<string, T>();

  get(text: string): T | undefined {
    const known = this.#latest.get(text);
    if (known !== undefined) return known;
    const older = this.#before.get(text);
    if (older !== undefined) this.add(text, older);
    return older;
  }

  add(text: string, known: T): void {
    // What a hostile client sends must not take memory without bound.
    if (text.length > LONGEST) return;
    if (this.#latest.size >= MOST) {
      this.#before = this.#latest;
      this.#latest = new Map();
    }
    this.#latest.set(text, known);
  }
}
