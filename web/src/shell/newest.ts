interface Asked {
  by: object;
  work: () => Promise<void>;
}

/** Does one thing at a time, whoever asks: what is asked for meanwhile waits, and only the newest of it is done. */
export class Newest {
  private next: Asked | null = null;
  private now: Asked | null = null;
  private flight: Promise<void> | null = null;

  /** Whether something is still to be done once what is in hand is done. */
  get hasNext(): boolean {
    return this.next !== null;
  }

  /** Whether something that was asked for by this one is in hand or still to come. */
  isBusyFor(by: object): boolean {
    return this.next?.by === by || this.now?.by === by;
  }

  /** Has something done in place of whatever waits; resolves once all is done. */
  ask(by: object, work: () => Promise<void>): Promise<void> {
    this.next = { by, work };
    this.flight ??= this.keepUp();
    return this.flight;
  }

  /** Forgets what waits, if it was asked for by this one. */
  drop(by: object) {
    if (this.next?.by === by) this.next = null;
  }

  private async keepUp() {
    try {
      for (; this.next; this.now = null) {
        this.now = this.next;
        this.next = null;
        await this.now.work();
      }
    } finally {
      // At once with the last look at what waits: whatever is asked for later begins by itself.
      this.now = this.flight = null;
    }
  }
}
