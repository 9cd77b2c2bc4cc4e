/** The player of the open solo: what plays, how, and the switches that stay when it stops. */
import { api, sentence, take } from "@/api/client";
import { atHand } from "@/score/cursor";
import { openDocument, useDocument } from "@/score/document";
import {
  type Hear,
  type Ladder,
  type Loop,
  type Looped,
  type Playing,
  playingNow,
  setPlayer,
  usePlaying,
} from "@/score/playing";
import { Engine, type Plan } from "@/score/engine";
import type { Manner } from "@/score/sounds";

const RATE_HZ = 48_000;
export const RUNGS = [250, 400, 500, 600, 700, 800, 900, 1_000, 1_100, 1_250] as const;
const HEAR: readonly Hear[] = ["recording", "writing", "beside", "together", "turns", "chords"];
const SLOWEST = 250;
const FASTEST = 1_250;
const STEP = 50;
const MOST_TRIM = 200;
const PATIENCE_MS = 120; // spares the steps of a dragged slider
const NEXT_STEP_MS = 700; // after a step of a ladder begins, the next is fetched
const BACK_FRAMES = 2 * RATE_HZ;
const MOMENT_LEAD_S = 0.05; // before a moment, so that its attack is heard
const SHORTEST_MOMENT_S = 0.25;
const LOOK_MS = 200; // between two looks at which pass sounds

const set = (change: Partial<Playing>): void => usePlaying.setState(change);
const planOf = ({ startFrame, endFrame, tick }: Loop): Plan => ({
  kind: "loop",
  start: startFrame,
  end: endFrame,
  tick,
});

class Player {
  private engine: Engine | null = null;
  private solo = "";
  private past: number | null = null;
  private endings: (() => void)[] = [];
  private soon: ReturnType<typeof setTimeout> | undefined;
  private asked: { readonly key: string; readonly loop: Promise<Loop> } | null = null; // not asked twice while nothing is written
  private step: { readonly key: string; readonly end: () => void } | null = null; // of a ladder, while it sounds

  /** For a solo, or one of its earlier states; the function that is returned ends it. */
  open(solo: string, past: number | null): () => void {
    usePlaying.setState(usePlaying.getInitialState());
    const engine = new Engine(`/api/solos/${solo}`, (progress) => {
      if (this.engine === engine) set(progress);
    });
    this.engine = engine;
    this.solo = solo;
    this.past = past;
    setPlayer(this);
    this.endings = [
      useDocument.subscribe((now, before) => this.afterWriting(now, before)),
      usePlaying.subscribe(() => this.seeToLadder()),
    ];
    return () => this.close();
  }

  private close(): void {
    clearTimeout(this.soon);
    for (const end of this.endings) end();
    this.step?.end();
    this.step = this.asked = null;
    this.engine?.dispose();
    this.engine = null;
    setPlayer(null);
    usePlaying.setState(usePlaying.getInitialState());
  }

  // -- start, stop, loop --------------------------------------------------------------------------------------------

  readonly position = (at?: number): number | null => this.engine?.position(at) ?? null;
  readonly stop = (): void => this.engine?.stop();

  readonly toggle = (): void => {
    if (this.sounds) return this.stop();
    const { loop } = playingNow();
    const { cursor, selection } = atHand();
    if (loop !== null) return this.run(planOf(loop));
    if (selection !== null) return void this.loopOver(selection, true);
    const { bench, grid } = openDocument();
    const bars = bench?.strip.bars ?? [];
    const endS = bench?.recording?.seconds ?? grid.second(bars[bars.length - 1]?.end ?? 0) + 1;
    const start = Math.round(grid.second(cursor.tick) * RATE_HZ);
    if (start < endS * RATE_HZ - 100)
      this.run({ kind: "run", start, end: Math.round(endS * RATE_HZ), tick: cursor.tick });
  };

  readonly loopOver = async (what: Looped, play: boolean): Promise<void> => {
    try {
      const loop = await this.askLoop(what);
      set({ loop });
      if (play || this.sounds) this.run(planOf(loop));
    } catch (fault) {
      set({ trouble: sentence(fault) });
    }
  };

  readonly loopSeconds = (from: number, to: number): void => {
    const { grid } = openDocument();
    const startFrame = Math.max(0, Math.round((from - MOMENT_LEAD_S) * RATE_HZ));
    const endFrame = Math.round(Math.max(to, from + SHORTEST_MOMENT_S) * RATE_HZ);
    const now = playingNow().loop;
    if (now?.startFrame === startFrame && now.endFrame === endFrame && this.sounds) return this.dropLoop();
    const tick = Math.round(grid.tick(from));
    const loop = { tick, end: Math.max(tick + 1, Math.round(grid.tick(to))), startFrame, endFrame, phrase: null };
    set({ loop });
    this.run(planOf(loop));
  };

  readonly dropLoop = (): void => {
    if (this.sounds) this.stop();
    set({ loop: null });
  };

  /** The last two seconds of the recording again: while it plays it goes on from there, else it stops where it had stopped. */
  readonly back = (): void => {
    const { engine } = this;
    if (engine === null) return;
    if (this.sounds) return void engine.back(BACK_FRAMES, this.manner());
    const end = engine.stoppedAt ?? Math.round(openDocument().grid.second(atHand().cursor.tick) * RATE_HZ);
    const start = Math.max(0, end - BACK_FRAMES);
    if (start < end) void engine.start({ kind: "run", start, end, tick: atHand().cursor.tick }, this.manner(), false);
  };

  private get sounds(): boolean {
    return this.engine?.playing === true;
  }

  private run(plan: Plan): void {
    void this.engine?.start(plan, this.manner(), playingNow().countIn);
  }

  private askLoop(what: Looped): Promise<Loop> {
    const { exact } = playingNow();
    const key = JSON.stringify([what, exact, openDocument().versions]);
    if (this.asked?.key !== key) {
      const loop = this.fetchLoop(what, exact);
      this.asked = { key, loop };
      loop.catch(() => {
        this.asked = null;
      });
    }
    return this.asked.loop;
  }

  private async fetchLoop(what: Looped, exact: boolean): Promise<Loop> {
    const solo_id = this.solo;
    const found =
      "phrase" in what
        ? await take(
            api.GET("/api/solos/{solo_id}/phrases/{phrase_id}/loop", {
              params: {
                path: { solo_id, phrase_id: what.phrase },
                query: { exact, ...(this.past === null ? {} : { state: this.past }) },
              },
            }),
          )
        : await take(
            api.GET("/api/solos/{solo_id}/loop", {
              params: { path: { solo_id }, query: { tick: what.from, end: what.to } },
            }),
          );
    return {
      tick: found.tick,
      end: found.end_tick,
      startFrame: found.start,
      endFrame: found.end,
      phrase: "phrase" in what ? what.phrase : null,
    };
  }

  // -- how it sounds ------------------------------------------------------------------------------------------------

  readonly setSpeed = (speed: number): void =>
    this.change({ speed: Math.min(FASTEST, Math.max(SLOWEST, Math.round(speed))) });
  readonly setClicks = (clicks: boolean): void => this.change({ clicks });
  readonly setInTune = (inTune: boolean): void => this.change({ inTune });
  readonly setTrim = (trim: number): void =>
    this.change({ trim: Math.min(MOST_TRIM, Math.max(-MOST_TRIM, Math.round(trim))) });
  readonly hearNext = (): void =>
    this.change({ hear: HEAR[(HEAR.indexOf(playingNow().hear) + 1) % HEAR.length] ?? "recording" });
  readonly setHear = (hear: Hear): void => this.change({ hear });
  readonly setCountIn = (countIn: boolean): void => set({ countIn });
  readonly setVolume = (volume: number): void => {
    set({ volume });
    this.engine?.setVolume(volume);
  };
  readonly setExact = (exact: boolean): void => {
    set({ exact });
    const phrase = playingNow().loop?.phrase;
    if (phrase != null) void this.loopOver({ phrase }, false);
  };
  /** At the speed that sounds, instead of the one that is being made. */
  readonly stayAsItSounds = (): void => {
    const sounding = this.engine?.sounding;
    if (sounding == null) this.stop();
    else this.setSpeed(sounding);
  };

  private manner(speed = playingNow().speed): Manner {
    const { trim, inTune, clicks, hear } = playingNow();
    const offset = openDocument().bench?.ground.settings.offset_cents ?? 0;
    const query = new URLSearchParams({ clicks: String(clicks), hear });
    if (this.past !== null) query.set("state", String(this.past));
    return { speed, cents: trim + (inTune ? -offset : 0), query: query.toString() };
  }

  /** A change takes over while it plays. */
  private change(change: Partial<Playing>): void {
    set(change);
    this.changeSoon();
  }

  private changeSoon(): void {
    clearTimeout(this.soon);
    if (this.sounds) this.soon = setTimeout(() => void this.engine?.change(this.manner()), PATIENCE_MS);
  }

  /** What was written is heard anew; the clicks lie on the grid; a phrase that goes takes its loop with it. */
  private afterWriting(now: ReturnType<typeof openDocument>, before: ReturnType<typeof openDocument>): void {
    const { hear, clicks, loop } = playingNow();
    if (loop?.phrase != null && now.bench !== null && now.elements.phrases[loop.phrase] === undefined) this.dropLoop();
    if (now.bench?.ground.settings.offset_cents !== before.bench?.ground.settings.offset_cents) this.changeSoon();
    const heard =
      now.elements.notes !== before.elements.notes && (now.bench?.recording == null || hear !== "recording");
    const moved = now.grid !== before.grid;
    if (heard || moved) this.engine?.forget();
    if (this.sounds && (heard || (moved && clicks))) void this.engine?.change(this.manner());
  }

  // -- the ladder ---------------------------------------------------------------------------------------------------

  readonly setLadder = (ladder: Ladder | null): void => {
    set({ ladder });
    const first = ladder?.rungs[0];
    if (first !== undefined) this.setSpeed(first);
  };

  /** A step up or down: of the ladder, else by 5 %. */
  readonly faster = (by: 1 | -1): void => {
    const { ladder, speed } = playingNow();
    if (ladder === null) return this.setSpeed(speed + by * STEP);
    const to = ladder.rungs[Math.min(ladder.rungs.length - 1, Math.max(0, this.rung() + by))];
    if (to !== undefined) this.setSpeed(to);
  };

  private rung(): number {
    const { ladder, speed } = playingNow();
    return ladder?.rungs.findIndex((one) => one >= speed) ?? -1;
  }

  /** The next step is fetched when one begins, and taken at the end of its last pass. */
  private seeToLadder(): void {
    const { ladder, playing, pending, loop } = playingNow();
    const climbs = ladder !== null && loop !== null && playing && !pending;
    const key = climbs ? JSON.stringify([ladder, this.manner()]) : "";
    if (key === (this.step?.key ?? "")) return;
    this.step?.end();
    this.step = null;
    if (!climbs) return;
    const rung = this.rung();
    const next = rung < 0 ? undefined : ladder.rungs[rung + 1];
    const look = setInterval(() => set({ pass: 1 + (this.engine?.passes() ?? 0) }), LOOK_MS);
    const soon = setTimeout(() => {
      if (next === undefined) return;
      const faster = this.manner(next);
      void this.engine?.prepareFor(faster);
      // The engine changes the speed itself.
      if (ladder.bySelf) this.engine?.climbAfter(ladder.passes, faster, () => set({ speed: next }));
    }, NEXT_STEP_MS);
    this.step = {
      key,
      end: () => {
        clearInterval(look);
        clearTimeout(soon);
      },
    };
    set({ pass: 1 });
  }
}

export const player = new Player();
