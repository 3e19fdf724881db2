/** Values of some dimensions that occurred together in one exercise. */
export type Exercised = Readonly<Record<string, readonly string[]>>;

/** Counts how often each two values of different dimensions were exercised together. */
export class PairCounter {
  readonly #counts = new Map<string, number>();
  readonly #dimensions: Exercised;

  /** @param dimensions all values of each dimension */
  constructor(dimensions: Exercised) {
    this.#dimensions = dimensions;
  }

  add(exercised: Exercised): void {
    const values = Object.entries(exercised).flatMap(([dimension, of]) =>
      [...new Set(of)].map((value) => `${dimension}: ${value}`),
    );
    for (let i = 0; i < values.length; i++)
      for (let j = i + 1; j < values.length; j++) {
        const key = keyOf(values[i]!, values[j]!);
        this.#counts.set(key, (this.#counts.get(key) ?? 0) + 1);
      }
  }

  /** Pairs of values of two dimensions that were exercised fewer than `least` times, but for the impossible ones. */
  missed(least: number, isImpossible: (one: string, other: string) => boolean): string[] {
    const names = Object.keys(this.#dimensions);
    const missed: string[] = [];
    names.forEach((one, i) => {
      for (const other of names.slice(i + 1))
        for (const a of this.#dimensions[one]!)
          for (const b of this.#dimensions[other]!) {
            const [left, right] = [`${one}: ${a}`, `${other}: ${b}`];
            if (isImpossible(left, right) || isImpossible(right, left)) continue;
            const count = this.#counts.get(keyOf(left, right)) ?? 0;
            if (count < least) missed.push(`${left} + ${right} (${count})`);
          }
    });
    return missed;
  }

  get size(): number {
    return this.#counts.size;
  }
}

const keyOf = (one: string, other: string): string =>
  one < other ? `${one} + ${other}` : `${other} + ${one}`;

/** Prints the figures of a trial that is run outside of the suite. */
export const report = (figures: object): void =>
  void process.stderr.write(`${JSON.stringify(figures, null, 1)}\n`);
