/** What waits its turn behind an undo or a request that is under way: things to do, and things to ask the server. */

export type Ask = { readonly ask: () => Promise<void>; readonly fail: (why: string) => void };
export type Run = { readonly run: () => void };
export type Turn = Run | Ask;

const asks = (turn: Turn): turn is Ask => "ask" in turn;
const runs = (turn: Turn): turn is Run => "run" in turn;

export class Line {
  private turns: Turn[] = [];
  private slot: number | null = null; // while a turn runs: what it asks for comes right behind it

  get length(): number {
    return this.turns.length;
  }

  get head(): Turn | undefined {
    return this.turns[0];
  }

  /** Nothing is under way that a new turn would have to wait for. */
  get free(): boolean {
    return this.turns.length === 0 || this.slot !== null;
  }

  enter(turn: Turn): void {
    if (this.slot === null) this.turns.push(turn);
    else this.turns.splice(this.slot++, 0, turn);
  }

  leave(turn: Turn): void {
    this.turns = this.turns.filter((one) => one !== turn);
  }

  /** Run the first turn; what it enters comes before all others. */
  runFirst(turn: Run): void {
    this.leave(turn);
    this.running(0, [turn]);
  }

  /** Run all that only waits to be done, now. */
  hurry(): void {
    const waiting = this.turns.filter(runs);
    this.turns = this.turns.filter(asks);
    this.running(this.turns.length, waiting);
  }

  /** The requests in line cannot be asked: they say so, and what waited behind them goes on. */
  giveUp(why: string): void {
    const failed = this.turns.filter(asks);
    this.turns = this.turns.filter(runs);
    for (const turn of failed) turn.fail(why);
  }

  /** Nothing waits any more. */
  clear(): void {
    const left = this.turns;
    this.turns = [];
    for (const turn of left) if (asks(turn)) turn.fail("");
  }

  private running(slot: number, turns: readonly Run[]): void {
    this.slot = slot;
    try {
      for (const turn of turns) turn.run();
    } finally {
      this.slot = null;
    }
  }
}
