/** A line of the plan while it is practised: what plays, where one stands on its stair, and how it sounds. */
import { create } from "zustand";
import { api, type Schemas, sentence, take, Unreachable } from "@/api/client";
import { Engine, type Plan } from "@/score/engine";
import type { Manner } from "@/score/sounds";
import { useLook } from "@/score/look";
import { keepSound, keepStand, keptSound, keptStand } from "./kept";
import { passed, type Stand, START } from "./stand";

export type PracticeView = Schemas["PracticeView"];
export type Count = Schemas["Count"];
export type Style = Schemas["VampStyle"];
/** How a line sounds. Levels from 0 to 1, the key in half steps. */
export type Sound = {
  readonly recording: number;
  readonly voice: number;
  readonly vamp: number;
  readonly count: Count;
  readonly countIn: boolean;
  readonly around: boolean;
  readonly key: number;
  readonly style: Style | "";
  readonly over: string;
  readonly volume: number;
};
type State = {
  readonly view: PracticeView | null;
  readonly trouble: string; // with the sound
  readonly lineTrouble: string; // with the line that is to be opened
  readonly playing: boolean;
  readonly pending: boolean;
  readonly share: number | null;
  readonly stand: Stand;
  readonly said: string; // what the last pass or press led to
  readonly missedNow: boolean; // the pass that sounds is said to be missed
  readonly free: number | null; // a speed that was typed, beside the stair
  readonly loopedS: number; // of looping without a break
  readonly sound: Sound;
};

const PRESET: Sound = {
  recording: 0.8,
  voice: 0,
  vamp: 0,
  count: "none",
  countIn: true,
  around: false,
  key: 0,
  style: "",
  over: "",
  volume: 0.3,
};
const LOOK_MS = 60;
const SOON_MS = 150;
const AGAIN_MS = 2_000; // between two tries to open a line while the server is away
const REST_S = 120; // of silence, after which looping counts as begun anew

/** What sounds, in words: beside the recording, which needs no word. */
export const besides = ({ recording, voice, vamp, over, count, key }: Sound, recorded: boolean): string =>
  [
    recorded && recording === 0 ? "without the recording" : "",
    voice > 0 ? "the writing" : "",
    vamp > 0 ? (over === "" ? "a vamp" : `a vamp over ${over}`) : "",
    count === "clicks" ? "clicks" : count === "spoken" ? "spoken counting" : "",
    key === 0 ? "" : `${Math.abs(key)} half step${Math.abs(key) > 1 ? "s" : ""} ${key > 0 ? "up" : "down"}`,
  ]
    .filter(Boolean)
    .join(", ");

/** Why nothing is to be heard; empty when something is. */
export const silenceOf = ({ recording, voice, vamp, count, key }: Sound, view: PracticeView): string => {
  const heard = view.recorded && recording > 0;
  if (voice > 0 || vamp > 0 || count !== "none") return "";
  if (heard && Math.abs(key) > view.recorded_key)
    return `Nothing sounds: the recording goes ${view.recorded_key} half steps at most. Turn up the writing or the vamp in Sound, or take another key.`;
  return heard ? "" : "Nothing sounds: turn up the recording, the writing or the vamp in Sound.";
};

export const usePractice = create<State>(() => ({
  view: null,
  trouble: "",
  lineTrouble: "",
  playing: false,
  pending: false,
  share: null,
  stand: START,
  said: "",
  missedNow: false,
  free: null,
  loopedS: 0,
  sound: PRESET,
}));
export const practiceNow = usePractice.getState;
const set = usePractice.setState;

const speedsOf = ({ line }: PracticeView): number[] => line.steps.map(({ speed }) => speed);

class Practice {
  private engine: Engine | null = null;
  private solo = "";
  private line = "";
  private passesSeen = 0;
  private looking: ReturnType<typeof setInterval> | undefined;
  private soon: ReturnType<typeof setTimeout> | undefined;
  private lastLook = 0;
  private silentSince = 0;
  private turn = 0;

  /** For a solo; the function that is returned ends it. */
  open(solo: string): () => void {
    this.solo = solo;
    this.engine = new Engine(`/api/solos/${solo}/practice`, ({ playing, pending, trouble, share }) => {
      set({ playing, pending, share, trouble: trouble ?? "" });
    });
    this.looking = setInterval(() => this.look(), LOOK_MS);
    return () => {
      clearInterval(this.looking);
      clearTimeout(this.soon);
      this.engine?.dispose();
      this.engine = null;
      this.turn += 1;
      set({
        view: null,
        playing: false,
        pending: false,
        trouble: "",
        lineTrouble: "",
        said: "",
        stand: START,
        free: null,
        loopedS: 0,
      });
      this.line = "";
    };
  }

  /** Open a line; while the server is away the one before stays, and it is tried again. */
  readonly load = async (line: string): Promise<void> => {
    const own = (this.turn += 1);
    const { reader, handSize } = useLook.getState();
    const other = line !== this.line;
    const sound = other ? keptSound(this.solo, line, PRESET) : practiceNow().sound;
    const query = { ...reader, line, hand: handSize, around: sound.around };
    try {
      const params = { path: { solo_id: this.solo }, query };
      const view = (await take(api.GET("/api/solos/{solo_id}/practice", { params }))) as unknown as PracticeView;
      if (own !== this.turn) return;
      this.line = line;
      const sounds = this.engine?.playing === true;
      const stand = other ? { stand: keptStand(this.solo, line, speedsOf(view)), said: "", free: null } : {};
      set({ view, lineTrouble: "", sound, ...stand });
      this.engine?.setVolume(sound.volume);
      if (sounds) this.start();
    } catch (fault) {
      if (own !== this.turn) return;
      const name = practiceNow().view?.lines.find(({ key }) => key === line)?.name;
      const away =
        name === undefined
          ? "The server does not answer. The line opens"
          : `The server does not answer. “${name}” opens`;
      set({ lineTrouble: fault instanceof Unreachable ? `${away} when it is back.` : sentence(fault) });
      if (fault instanceof Unreachable)
        setTimeout(() => {
          if (own === this.turn) void this.load(line);
        }, AGAIN_MS);
    }
  };

  /** Seconds of the recording that sound now; null in silence and in the count-in. */
  readonly position = (): number | null => this.engine?.position() ?? null;

  get speed(): number {
    const { view, stand, free } = practiceNow();
    return free ?? view?.line.steps[stand.step]?.speed ?? 1_000;
  }

  readonly toggle = (): void => {
    if (this.engine?.playing === true) this.stop();
    else this.start();
  };

  private start(): void {
    const { view, sound } = practiceNow();
    if (view === null || this.engine === null) return;
    const plan: Plan = { kind: "loop", start: view.start, end: view.end, tick: view.tick };
    this.passesSeen = 0;
    set({ said: "", missedNow: false, trouble: "" });
    void this.engine.start(plan, this.manner(), sound.countIn).then(() => this.expect());
  }

  private stop(): void {
    this.engine?.stop();
  }

  private manner(speed = this.speed): Manner {
    const { sound } = practiceNow();
    const { reader } = useLook.getState();
    const query = new URLSearchParams({
      recording: String(sound.recording),
      voice: String(sound.voice),
      vamp: String(sound.vamp),
      count: sound.count,
      key: String(sound.key),
      school: reader.school,
      ...(sound.style === "" ? {} : { vamp_style: sound.style }),
      ...(sound.over === "" ? {} : { over: sound.over }),
    });
    return { speed, cents: 0, query: query.toString() };
  }

  // -- passes --------------------------------------------------------------------------------------------------------

  /** Where one stands, kept for today. */
  private standAt(stand: Stand): void {
    const { view } = practiceNow();
    set({ stand });
    if (view !== null) keepStand(this.solo, this.line, speedsOf(view), stand);
  }

  /** Nothing is heard: passes do not count. */
  private get silent(): boolean {
    const { view, sound } = practiceNow();
    return view !== null && silenceOf(sound, view) !== "";
  }

  /** What the end of the pass that sounds leads to, unless something else is said before. */
  private after(): Stand {
    const { view, stand, missedNow } = practiceNow();
    return passed(stand, view?.line.steps.length ?? 1, view?.line.passes ?? 1, !missedNow);
  }

  /** Has the sound ready for the step that the end of this pass leads to. */
  private expect(): void {
    const { view, stand, free } = practiceNow();
    if (view === null || this.engine === null) return;
    const next = this.after();
    if (free !== null || this.silent || next.step === stand.step) {
      this.engine.stayHere();
      return;
    }
    const manner = this.manner(view.line.steps[next.step]?.speed);
    void this.engine.prepareFor(manner);
    this.engine.climbAfter(this.engine.passes() + 1, manner, () => this.arrived(next));
  }

  private arrived(next: Stand): void {
    const { stand, view } = practiceNow();
    const percent = view?.line.steps[next.step]?.percent ?? "";
    this.passesSeen = 0;
    this.standAt(next);
    set({
      missedNow: false,
      said: next.step > stand.step ? `Up to ${percent} %.` : `Down to ${percent} %.`,
    });
    this.expect();
  }

  private look(): void {
    const now = performance.now();
    const since = (now - this.lastLook) / 1_000;
    this.lastLook = now;
    const { engine } = this;
    if (engine?.playing !== true || engine.position() === null) {
      this.silentSince ||= now;
      if (now - this.silentSince > REST_S * 1_000 && practiceNow().loopedS > 0) set({ loopedS: 0 });
      return;
    }
    this.silentSince = 0;
    set({ loopedS: practiceNow().loopedS + Math.min(since, 1) });
    const passes = engine.passes();
    if (passes <= this.passesSeen) return;
    this.passesSeen = passes;
    if (this.silent) return;
    const next = this.after();
    // A change of step is the engine's, at the very end of the pass; it reports when it is made.
    if (next.step !== practiceNow().stand.step && practiceNow().free === null) return;
    this.standAt({ ...next, step: practiceNow().stand.step });
    set({ missedNow: false });
    this.expect();
  }

  /** The pass that sounds was not clean. */
  readonly missed = (): void => {
    if (this.engine?.playing !== true || practiceNow().missedNow) return;
    set({ missedNow: true, said: "Missed: this pass does not count." });
    this.expect();
  };

  /** A step up or down at once. */
  readonly step = (by: 1 | -1): void => {
    const { view, stand } = practiceNow();
    const steps = view?.line.steps.length ?? 1;
    const to = Math.min(steps - 1, Math.max(0, stand.step + by));
    // At an end of the stair nothing is thrown away that was reached there.
    if (to === stand.step && practiceNow().free === null)
      set({ said: by > 0 ? "This is the goal of the line." : "This is the first step." });
    else this.goTo(to);
  };

  readonly goTo = (step: number): void => {
    const { stand, free } = practiceNow();
    const same = step === stand.step;
    if (same && free === null) return;
    if (!same) this.standAt({ step, clean: 0, missed: 0 });
    set({ missedNow: false, free: null, said: "" });
    this.changed();
  };

  /** Any other speed, beside the stair; where one stands on that stays. */
  readonly setSpeed = (free: number | null): void => {
    set({ free });
    this.changed();
  };

  readonly setSound = (change: Partial<Sound>): void => {
    const sound = { ...practiceNow().sound, ...change };
    set({ sound });
    keepSound(this.solo, this.line, sound);
    if (change.volume !== undefined) this.engine?.setVolume(change.volume);
    if (change.around !== undefined) void this.load(this.line);
    else if (Object.keys(change).some((name) => name !== "volume" && name !== "countIn")) this.changed();
  };

  private changed(): void {
    clearTimeout(this.soon);
    this.soon = setTimeout(() => {
      if (this.engine?.playing !== true) return;
      this.passesSeen = 0;
      void this.engine.change(this.manner()).then(() => this.expect());
    }, SOON_MS);
  }

  /** The break was heard of. */
  readonly rested = (): void => set({ loopedS: 0 });

  /** The line after this one in the plan, or before it; null at the end. */
  readonly neighbour = (by: 1 | -1): string | null => {
    const lines = practiceNow().view?.lines ?? [];
    const at = lines.findIndex(({ key }) => key === this.line);
    return lines[at + by]?.key ?? null;
  };
}

export const practice = new Practice();
