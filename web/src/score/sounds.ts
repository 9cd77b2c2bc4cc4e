/** Sound as the server renders it: loops and pieces, fetched, and kept here as long as there is room. */

export const RATE_HZ = 48_000;
export const JOIN_FRAMES = 240; // 5 ms in which one piece fades into the next
const LOOK_MS = 500; // between two questions how far a sound is
const KEPT_LOOP_S = 400; // of looped sound, so that what was heard before sounds at once, and goes on without the server

/** Speed in per mille, a trim in cents, and what else the server is asked for, as the query of its address. */
export type Manner = { readonly speed: number; readonly cents: number; readonly query: string };
type Span = { readonly start: number; readonly end: number }; // frames of the recording
/** A piece of sound and the frame of the recording at which it ends. */
export type Sounding = { readonly buffer: AudioBuffer; readonly end: number };

const AWAY = "The server does not answer: no sound for now.";
/** The server cannot be asked: what sounds goes on, and what is wanted is asked for again. */
export class Away extends Error {}

const keyOf = (span: Span, manner: Manner): string =>
  `${span.start} ${span.end} ${manner.speed} ${manner.cents} ${manner.query}`;

export class Sounds {
  private readonly heard = new Map<string, Sounding>(); // loops and pieces of loops, the longest unused first

  constructor(
    private readonly path: string,
    private readonly waits: (abort: AbortController) => boolean, // whether somebody waits for what is fetched
    private readonly report: (share: number) => void, // how much of that is made
  ) {}

  /** A whole loop, if it is here. */
  kept(span: Span, manner: Manner): Sounding | undefined {
    return this.heard.get(keyOf(span, manner));
  }

  forget(): void {
    this.heard.clear();
  }

  /** A loop, or a piece of one by its number in a pass; what was fetched before is kept here as long as there is room. */
  async looped(
    context: AudioContext,
    plan: Span,
    start: number,
    number: number | null,
    manner: Manner,
    abort: AbortController,
  ): Promise<Sounding> {
    const key = number === null ? keyOf(plan, manner) : `${keyOf({ start, end: plan.end }, manner)} ${number}`;
    const found = this.heard.get(key) ?? (await this.piece(context, { start, end: plan.end, number }, manner, abort));
    this.heard.delete(key);
    this.heard.set(key, found);
    let kept = [...this.heard.values()].reduce((sum, one) => sum + one.buffer.length, 0);
    for (const [old, one] of this.heard) {
      if (kept <= KEPT_LOOP_S * RATE_HZ || old === key) break;
      this.heard.delete(old);
      kept -= one.buffer.length;
    }
    return found;
  }

  /** A piece of a playing by its number, of which the server says where it ends; or, with none, a whole loop. */
  async piece(
    context: AudioContext,
    piece: { start: number; end: number; number: number | null },
    manner: Manner,
    abort: AbortController,
  ): Promise<Sounding> {
    const ticket = crypto.randomUUID();
    const query = new URLSearchParams({
      ticket,
      start: String(piece.start),
      end: String(piece.end),
      speed: String(manner.speed),
      cents: String(manner.cents),
      ...(piece.number === null ? { loop: "true" } : { tail: String(JOIN_FRAMES), number: String(piece.number) }),
    });
    const address = `${this.path}/piece?${query.toString()}&${manner.query}`;
    const sound = this.decoded(context, address, abort.signal);
    const ask = setInterval(() => {
      if (this.waits(abort)) void this.askShare(ticket, abort);
    }, LOOK_MS);
    return sound.finally(() => {
      clearInterval(ask);
    });
  }

  private async askShare(ticket: string, abort: AbortController): Promise<void> {
    // It may be left at any moment, while the answer is read too.
    const share = await fetch(`/api/renders?ticket=${ticket}`, { signal: abort.signal })
      .then(async (answer) => (answer.ok ? ((await answer.json()) as { share: number }).share : 0))
      .catch(() => 0);
    if (this.waits(abort) && !abort.signal.aborted && share > 0) this.report(share);
  }

  async countIn(context: AudioContext, tick: number, manner: Manner): Promise<AudioBuffer> {
    const url = `${this.path}/count-in?tick=${tick}&speed=${manner.speed}&${manner.query}`;
    return (await this.decoded(context, url)).buffer;
  }

  private async decoded(context: AudioContext, url: string, signal?: AbortSignal): Promise<Sounding> {
    const answer = await fetch(url, signal === undefined ? {} : { signal }).catch((fault: unknown) => {
      throw fault instanceof TypeError ? new Away(AWAY) : fault;
    });
    if (!answer.ok) {
      const problem = (await answer.json().catch(() => ({}))) as { title?: string; code?: string };
      if (problem.code === undefined || problem.code === "store-away") throw new Away(AWAY);
      throw new Error(problem.title ?? "The sound could not be loaded. Press play again.");
    }
    const buffer = await context.decodeAudioData(await answer.arrayBuffer());
    return { buffer, end: Number(answer.headers.get("usagi-end")) };
  }
}
