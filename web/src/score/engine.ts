/**
 * Plays what the server renders: pieces back to back, or one piece that joins itself as a loop. The sound never stops
 * for an edit, and a change of speed or trim takes over at the same place in the music.
 */
import { Away, JOIN_FRAMES, type Manner, RATE_HZ, type Sounding, Sounds } from "./sounds";

const FADE_S = 0.025; // from an old speed to a new one
const SHORT_LOOP_S = 1.2; // is waited for; a longer one begins with a piece of it
const AHEAD_S = 10; // of sound that is scheduled
const LEAD_S = 0.03; // docs/model.md: a loop's first frame lies this far before its bar line
const LONGEST_LOOP_S = 60;
const START_S = 0.02;
const AGAIN_MS = 1_500; // between two tries while the server is away
const CLIMB_S = 0.25; // before the end of a pass its change is made ready
const LONG_CLIMB_S = 2.5; // of a loop that is rendered in pieces

/** `share`: how much of the sound that is waited for is made, where that takes a while. */
export type Progress = {
  readonly playing: boolean;
  readonly pending: boolean;
  readonly trouble: string | null;
  readonly share: number | null;
};
export type Plan =
  | { readonly kind: "run"; readonly start: number; readonly end: number; readonly tick: number } // frames of the recording
  | { readonly kind: "loop"; readonly start: number; readonly end: number; readonly tick: number };

type Voice = {
  readonly out: GainNode;
  /** Context time at which frame `from` of the recording sounds, at `speed`; later when a piece came late. */
  at: number;
  readonly from: number;
  readonly speed: number;
  readonly loop: { readonly start: number; readonly end: number } | null;
  /** Seconds of one pass of a loop as it is played, to the sample; `into` it is at `at`. */
  readonly period: number;
  readonly into: number;
  /** It took over in the middle of a pass: what is left of that is no pass. */
  readonly part: boolean;
  readonly stop: (when: number) => void;
};

const GOES_ON = "The server does not answer. What sounds goes on; what you asked for comes when it is back.";

const fits = (plan: { start: number; end: number }): boolean => plan.end - plan.start <= LONGEST_LOOP_S * RATE_HZ;

export class Engine {
  private context: AudioContext | null = null;
  private master: GainNode | null = null;
  private voice: Voice | null = null;
  private plan: Plan | null = null;
  private leaving: Voice[] = []; // handed over already, and perhaps not heard yet
  private turn = 0; // a newer start or change makes older ones give up
  private level = 0.25;
  private pending = false;
  private asked: AbortController | null = null;
  /** The frame at which it was last silenced. */
  stoppedAt: number | null = null;
  private readonly sounds: Sounds;
  private climb: { passes: number; manner: Manner; report: () => void } | null = null;
  private climbing: ReturnType<typeof setTimeout> | null = null;

  constructor(
    path: string, // under which the server answers with `piece` and `count-in`
    private readonly report: (state: Progress) => void,
  ) {
    this.sounds = new Sounds(
      path,
      (abort) => this.pending && abort === this.asked,
      (share) => this.report({ playing: true, pending: true, trouble: null, share }),
    );
    // The output takes a while to open; the first key or click of any kind may open it.
    for (const gesture of ["pointerdown", "keydown"])
      window.addEventListener(gesture, this.open, { once: true, capture: true });
  }

  private readonly open = (): void => {
    void this.ready().catch(() => undefined);
  };

  get playing(): boolean {
    return this.plan !== null;
  }

  setVolume(level: number): void {
    this.level = level;
    if (this.master !== null && this.context !== null)
      this.master.gain.setTargetAtTime(level, this.context.currentTime, 0.02);
  }

  /**
   * Seconds of the recording that sound now, or sounded at a time stamp (ms, as events have it: a busy page gets a
   * key late, but with its own time); null in silence and in a count-in.
   */
  position(at?: number): number | null {
    const { context, voice } = this;
    if (context === null || voice === null) return null;
    const ago = at === undefined ? 0 : Math.max(0, performance.now() - at) / 1_000;
    const heardAt = context.currentTime - ago - (context.outputLatency || context.baseLatency || 0);
    return heardAt < voice.at ? null : this.placeAt(voice, heardAt) / RATE_HZ;
  }

  /** Start a plan, after a bar of clicks when a count-in is wanted. */
  async start(plan: Plan, manner: Manner, countIn: boolean): Promise<void> {
    const turn = this.silence();
    this.plan = plan;
    this.say({ playing: true, pending: true, trouble: null, share: null });
    try {
      const context = await this.ready();
      const clicks = countIn ? await this.sounds.countIn(context, plan.tick, manner) : null;
      const first = await this.prepare(context, plan, plan.start, manner, turn);
      if (turn !== this.turn) return;
      const when = context.currentTime + START_S;
      let sounds = when;
      if (clicks !== null) {
        const source = this.sourceOf(context, clicks);
        source.connect(this.out(context));
        source.start(when);
        // The pulse after the last click is the loop's bar line; the loop's first frame lies a little before it.
        const lead = plan.kind === "loop" ? LEAD_S / (manner.speed / 1_000) : 0;
        sounds = when + clicks.length / RATE_HZ - lead;
        this.stopClicks = () => source.stop();
      }
      this.voice = first(sounds);
      this.say({ playing: true, pending: false, trouble: null, share: null });
    } catch (fault) {
      this.fail(turn, fault);
    }
  }

  /** Change speed or trim; the old sound goes on until the new one is there, at the same place in the music. */
  async change(manner: Manner): Promise<void> {
    const { plan, context } = this;
    if (plan === null || context === null || this.voice === null) return;
    this.asked?.abort();
    this.climb = null;
    const turn = ++this.turn;
    this.say({ playing: true, pending: true, trouble: null, share: null });
    try {
      const loop = plan.kind === "loop";
      // Asked for a little ahead of where the old sound will be when the new one is ready.
      const guess = (): number =>
        loop ? plan.start : Math.min(plan.end - RATE_HZ / 2, this.frameAt(context.currentTime + 0.5));
      let from = guess();
      const next = await this.persist(turn, () => this.prepare(context, plan, (from = guess()), manner, turn, true));
      if (next === null || turn !== this.turn) return;
      const when = loop ? context.currentTime + START_S : Math.max(context.currentTime + START_S, this.timeOf(from));
      this.handOver(next(when, loop ? this.frameAt(when) : undefined), when);
      this.say({ playing: true, pending: false, trouble: null, share: null });
    } catch (fault) {
      this.fail(turn, fault);
    }
  }

  /** What is asked for, again and again while the server is away; meanwhile what sounds goes on. Null when it is not wanted any more. */
  private async persist<Found>(turn: number, ask: () => Promise<Found>): Promise<Found | null> {
    for (let tries = 0; ; tries += 1) {
      try {
        const found = await ask();
        if (tries > 0 && turn === this.turn)
          this.say({ playing: true, pending: this.pending, trouble: null, share: null });
        return found;
      } catch (fault) {
        if (!(fault instanceof Away)) throw fault;
        if (turn !== this.turn) return null;
        this.say({ playing: true, pending: false, trouble: GOES_ON, share: null });
        await new Promise((wake) => setTimeout(wake, AGAIN_MS));
        if (turn !== this.turn) return null;
      }
    }
  }

  /** Passes through the loop since this speed sounds; 0 in the first. */
  passes(): number {
    const { context, voice } = this;
    if (context === null || voice?.loop == null) return 0;
    const ends = Math.floor((context.currentTime - voice.at + voice.into) / voice.period);
    return Math.max(0, ends - (voice.part ? 1 : 0));
  }

  /** Have a loop ready at another speed before it is needed; of a long one what it begins with. */
  async prepareFor(manner: Manner): Promise<void> {
    const { plan, context } = this;
    if (plan?.kind !== "loop" || context === null) return;
    const first = fits(plan) ? null : 0;
    await this.sounds.looped(context, plan, plan.start, first, manner, new AbortController()).catch(() => undefined);
  }

  /** At the end of the pass in which this many are full, go on at another speed; `report` hears of it then. */
  climbAfter(passes: number, manner: Manner, report: () => void): void {
    this.climb = { passes, manner, report };
    this.arm();
  }

  /** Nothing is to change at the end of the pass after all. */
  stayHere(): void {
    this.climb = null;
    this.arm();
  }

  private arm(): void {
    if (this.climbing !== null) clearTimeout(this.climbing);
    this.climbing = null;
    const { voice, plan, context, climb } = this;
    if (climb === null || voice?.loop == null || plan?.kind !== "loop" || context === null) return;
    const whole = fits(plan);
    const turn = this.turn;
    const full = () => voice.at - voice.into + (climb.passes + (voice.part ? 1 : 0)) * voice.period;
    const go = async () => {
      const abort = new AbortController();
      const first = await this.persist(turn, () =>
        this.sounds.looped(context, plan, plan.start, whole ? null : 0, climb.manner, abort),
      );
      if (first === null || turn !== this.turn || this.voice !== voice || this.climb !== climb) return;
      const soonest = context.currentTime + 0.01;
      // Where that came too late it waits for the end of another pass.
      const passes = Math.max(0, Math.ceil((soonest - full()) / voice.period));
      const when = full() + passes * voice.period;
      if (passes > 0) this.say({ playing: true, pending: false, trouble: null, share: null });
      this.climb = null;
      this.asked = abort;
      this.handOver(
        whole
          ? this.loopVoice(context, first.buffer, plan, climb.manner, when, plan.start, false)
          : this.runVoice(context, first, plan, plan.start, climb.manner, when, turn, abort),
        when,
      );
      setTimeout(climb.report, Math.max(0, (when - context.currentTime) * 1_000));
    };
    // A little before the end of the pass, so that the change lies on the sample where the loop begins again.
    const ahead = whole ? CLIMB_S : LONG_CLIMB_S;
    this.climbing = setTimeout(
      () =>
        void go().catch((fault: unknown) => {
          this.fail(turn, fault);
        }),
      Math.max(0, (full() - context.currentTime - ahead) * 1_000),
    );
  }

  /** Go back by some frames of the recording and play on from there; a loop no further than to its start. */
  async back(frames: number, manner: Manner): Promise<void> {
    const { plan, voice, context } = this;
    if (plan === null || voice === null || context === null) return;
    const to = this.frameAt(context.currentTime) - frames;
    const looped = plan.kind === "loop" ? this.sounds.kept(plan, manner)?.buffer : undefined;
    if (looped !== undefined && plan.kind === "loop" && voice.loop !== null) {
      const when = context.currentTime + START_S;
      this.handOver(this.loopVoice(context, looped, plan, manner, when, Math.max(plan.start, to), true), when);
      this.arm();
    } else await this.start(plan.kind === "loop" ? plan : { ...plan, start: Math.max(0, to) }, manner, false);
  }

  stop(): void {
    this.silence();
    this.plan = null;
    this.say({ playing: false, pending: false, trouble: null, share: null });
  }

  dispose(): void {
    for (const gesture of ["pointerdown", "keydown"]) window.removeEventListener(gesture, this.open, { capture: true });
    this.silence();
    this.plan = null;
    void this.context?.close();
    this.context = null;
  }

  /** The speed that sounds, while another is being made. */
  get sounding(): number | null {
    return this.voice?.speed ?? null;
  }

  // -- parts -------------------------------------------------------------------------------------------------------

  private stopClicks: (() => void) | null = null;

  private say(state: Progress): void {
    this.pending = state.pending;
    this.report(state);
  }

  private silence(): number {
    this.asked?.abort();
    if (this.climbing !== null) clearTimeout(this.climbing);
    this.climbing = this.climb = null;
    this.stopClicks?.();
    this.stopClicks = null;
    if (this.voice !== null && this.context !== null) {
      const now = this.context.currentTime;
      this.stoppedAt = this.frameAt(now);
      this.fade(this.voice, now);
      for (const { out, stop } of this.leaving) {
        out.gain.cancelScheduledValues(now);
        out.gain.setTargetAtTime(0, now, FADE_S / 4);
        stop(now + FADE_S);
      }
    }
    this.voice = null;
    this.leaving = [];
    return ++this.turn;
  }

  private handOver(next: Voice, when: number): void {
    if (this.context === null) return;
    if (this.voice !== null) {
      this.fade(this.voice, when);
      this.leaving = [this.voice];
    }
    next.out.gain.setValueAtTime(0, this.context.currentTime);
    next.out.gain.setValueAtTime(0, when);
    next.out.gain.linearRampToValueAtTime(1, when + FADE_S);
    this.voice = next;
  }

  private fade(voice: Voice, when: number): void {
    voice.out.gain.setValueAtTime(1, when);
    voice.out.gain.linearRampToValueAtTime(0, when + FADE_S);
    voice.stop(when + FADE_S);
  }

  private frameAt(when: number): number {
    const voice = this.voice;
    if (voice === null) return this.plan?.start ?? 0;
    return Math.round(this.placeAt(voice, Math.max(when, voice.at)));
  }

  /** The frame of the recording that a voice sounds at a time. */
  private placeAt(voice: Voice, when: number): number {
    const passed = when - voice.at;
    if (voice.loop === null) return voice.from + passed * RATE_HZ * (voice.speed / 1_000);
    return (
      voice.loop.start + (((voice.into + passed) % voice.period) / voice.period) * (voice.loop.end - voice.loop.start)
    );
  }

  private timeOf(frame: number): number {
    const voice = this.voice;
    if (voice === null) return 0;
    return voice.at + (frame - voice.from) / RATE_HZ / (voice.speed / 1_000);
  }

  private async ready(): Promise<AudioContext> {
    if (this.context === null) {
      this.context = new AudioContext({ sampleRate: RATE_HZ, latencyHint: "interactive" });
      this.master = this.context.createGain();
      this.master.gain.value = this.level;
      this.master.connect(this.context.destination);
    }
    if (this.context.state !== "running") await this.context.resume();
    return this.context;
  }

  private out(context: AudioContext): GainNode {
    if (this.master === null) throw new Error("no output");
    const gain = context.createGain();
    gain.connect(this.master);
    return gain;
  }

  private sourceOf(context: AudioContext, buffer: AudioBuffer): AudioBufferSourceNode {
    const source = context.createBufferSource();
    source.buffer = buffer;
    return source;
  }

  /** Fetch what a plan needs to sound from a frame on; the answer schedules it. */
  private async prepare(
    context: AudioContext,
    plan: Plan,
    from: number,
    manner: Manner,
    turn: number,
    part = false,
  ): Promise<(when: number, at?: number) => Voice> {
    const abort = (this.asked = new AbortController());
    const loops = plan.kind === "loop" && fits(plan);
    // A change waits for the whole loop, because the old sound goes on meanwhile; a start does not.
    if (
      loops &&
      (this.voice !== null ||
        plan.end - plan.start < SHORT_LOOP_S * RATE_HZ ||
        this.sounds.kept(plan, manner) !== undefined)
    ) {
      const { buffer } = await this.sounds.looped(context, plan, plan.start, null, manner, abort);
      return (when, at = plan.start) => this.loopVoice(context, buffer, plan, manner, when, at, part);
    }
    const first =
      plan.kind === "loop"
        ? await this.sounds.looped(context, plan, from, 0, manner, abort)
        : await this.sounds.piece(context, { start: from, end: plan.end, number: 0 }, manner, abort);
    // Asked for only now, so that the first sound has the server to itself.
    const whole = loops
      ? this.persist(turn, () => this.sounds.looped(context, plan, plan.start, null, manner, abort))
      : null;
    whole?.catch(() => undefined); // whoever waits for it hears of its fault
    return (when) => {
      const voice = this.runVoice(context, first, plan, from, manner, when, turn, abort, part);
      whole?.then(
        (looped) => {
          if (looped === null) return;
          const { buffer } = looped;
          if (turn !== this.turn || this.voice !== voice || plan.kind !== "loop") return;
          const then = Math.max(when + 0.05, context.currentTime + START_S);
          this.handOver(this.loopVoice(context, buffer, plan, manner, then, this.frameAt(then), voice.part), then);
          this.arm();
        },
        (fault: unknown) => {
          this.fail(turn, fault);
        },
      );
      return voice;
    };
  }

  /** What the writing sounds like has changed: loops of a solo without a recording are rendered anew. */
  forget(): void {
    this.sounds.forget();
  }

  private loopVoice(
    context: AudioContext,
    buffer: AudioBuffer,
    plan: { start: number; end: number },
    manner: Manner,
    when: number,
    at: number,
    part: boolean,
  ): Voice {
    const out = this.out(context);
    const source = this.sourceOf(context, buffer);
    source.loop = true;
    source.loopStart = 0;
    source.loopEnd = buffer.length / RATE_HZ;
    source.connect(out);
    const period = buffer.length / RATE_HZ;
    const into = ((at - plan.start) / (plan.end - plan.start)) * period;
    source.start(when, into);
    const stop = (end: number) => source.stop(end);
    return { out, at: when, from: at, speed: manner.speed, loop: plan, period, into, part, stop };
  }

  /** Pieces back to back; each fades into the next over 5 ms. A loop too long for one piece starts again at its end. */
  private runVoice(
    context: AudioContext,
    first: Sounding,
    plan: Plan,
    from: number,
    manner: Manner,
    when: number,
    turn: number,
    abort: AbortController,
    part = false,
  ): Voice {
    const out = this.out(context);
    const sources = new Set<AudioBufferSourceNode>(); // that sound or will; what has ended is let go
    const state = { stopped: false };
    const halted = (): boolean => state.stopped; // set from outside while the loop below waits
    const join = JOIN_FRAMES / RATE_HZ;
    const place = (buffer: AudioBuffer, at: number, opening: boolean) => {
      const source = this.sourceOf(context, buffer);
      const gain = context.createGain();
      const ends = at + buffer.length / RATE_HZ;
      if (!opening) {
        gain.gain.setValueAtTime(0, at);
        gain.gain.linearRampToValueAtTime(1, at + join);
      }
      gain.gain.setValueAtTime(1, ends - join);
      gain.gain.linearRampToValueAtTime(0, ends);
      source.connect(gain).connect(out);
      source.start(at);
      sources.add(source);
      source.onended = () => {
        sources.delete(source);
        if (sources.size === 0 && over && !state.stopped) this.stop();
      };
      return ends - join;
    };
    let over = false; // nothing more is placed
    const goOn = async () => {
      let next = place(first.buffer, when, true);
      let at = first.end;
      let number = 0;
      while (!halted()) {
        if (at >= plan.end) {
          if (plan.kind === "run") break;
          [at, number] = [plan.start, -1]; // every pass is made of the same pieces
        }
        number += 1;
        const asked = [at, number] as const;
        const piece = await this.persist(turn, () =>
          plan.kind === "run"
            ? this.sounds.piece(context, { start: asked[0], end: plan.end, number: asked[1] }, manner, abort)
            : this.sounds.looped(context, plan, ...asked, manner, abort),
        );
        if (piece === null || halted()) return;
        const begins = Math.max(next, context.currentTime + 0.01);
        voice.at += begins - next;
        next = place(piece.buffer, begins, false);
        at = piece.end;
        while (!halted() && next - context.currentTime > AHEAD_S) await new Promise((wake) => setTimeout(wake, 300));
      }
      over = true;
    };
    const voice: Voice = {
      out,
      at: when,
      from,
      speed: manner.speed,
      loop: plan.kind === "loop" ? plan : null,
      period: (plan.end - plan.start) / RATE_HZ / (manner.speed / 1_000),
      into: (from - plan.start) / RATE_HZ / (manner.speed / 1_000),
      part,
      stop: (end) => {
        state.stopped = true;
        for (const source of sources) source.stop(end);
      },
    };
    goOn().catch((fault: unknown) => {
      if (!state.stopped) this.fail(turn, fault);
    });
    return voice;
  }

  private fail(turn: number, fault: unknown): void {
    if (turn !== this.turn || (fault instanceof DOMException && fault.name === "AbortError")) return;
    this.stop();
    const words = fault instanceof Error ? fault.message : "No sound.";
    this.say({ playing: false, pending: false, trouble: words, share: null });
  }
}
