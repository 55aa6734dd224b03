/** What was fetched, kept within a budget of bytes: the least lately used goes first, and nothing that is in use. */

type Options<Value> = {
  budget: number;
  bytes: (value: Value) => number;
  inUse: (value: Value) => boolean;
  drop: (value: Value) => void;
};

export class Shelf<Value> {
  private readonly kept = new Map<string, { loading: Promise<Value>; value: Value | null }>();

  constructor(private readonly options: Options<Value>) {}

  /** The value of a key, fetched unless it is here. One that could not be fetched is forgotten. */
  get(key: string, fetch: () => Promise<Value>): Promise<Value> {
    const known = this.kept.get(key);
    if (known) {
      this.kept.delete(key); // it is the latest now
      this.kept.set(key, known);
      return known.loading;
    }
    const entry = { loading: fetch(), value: null as Value | null };
    this.kept.set(key, entry);
    entry.loading.then(
      (value) => {
        entry.value = value;
        this.makeRoom(key);
      },
      () => this.kept.delete(key),
    );
    return entry.loading;
  }

  /** Bytes of all that is here. */
  get bytes(): number {
    let sum = 0;
    for (const { value } of this.kept.values()) if (value) sum += this.options.bytes(value);
    return sum;
  }

  /** Drops the oldest that are not in use, but for the newest one, until the rest is within the budget. */
  private makeRoom(newest: string) {
    let over = this.bytes - this.options.budget;
    for (const [key, { value }] of [...this.kept]) {
      if (over <= 0) return;
      if (!value || key === newest || this.options.inUse(value)) continue;
      over -= this.options.bytes(value);
      this.kept.delete(key);
      this.options.drop(value);
    }
  }
}
