/** The player of one solo: what plays, how, and the switches that stay when it stops. */
import { useCallback, useEffect, useMemo, useRef, useState } from "react";
import { api, sentence, take } from "@/api/client";
import { type Loopable, useBench } from "@/score/bench";
import { Engine, type Hear, type Plan, type Told } from "./engine";

const RATE_HZ = 48_000;
export const RUNGS = [250, 400, 500, 600, 700, 800, 900, 1_000, 1_100, 1_250] as const;
export const HEAR: readonly Hear[] = ["recording", "writing", "beside"];
const SLOWEST = 250;
const FASTEST = 1_250;
const STEP = 50;

export type Player = {
  readonly playing: boolean;
  readonly pending: boolean;
  readonly trouble: string | null;
  readonly share: number | null; // of the sound that is waited for
  readonly speed: number;
  readonly countIn: boolean;
  readonly clicks: boolean;
  readonly inTune: boolean;
  readonly trim: number;
  readonly volume: number;
  readonly loop: (Loopable & { readonly startS: number; readonly endS: number }) | null;
  readonly exact: boolean;
  readonly position: (at?: number) => number | null;
  readonly toggle: () => void;
  readonly stop: () => void;
  readonly setSpeed: (speed: number) => void;
  readonly faster: (by: number) => void;
  readonly stay: () => void; // at the speed that sounds, instead of the one being made
  readonly setCountIn: (on: boolean) => void;
  readonly setClicks: (on: boolean) => void;
  readonly hear: Hear;
  readonly setHear: (hear: Hear) => void;
  readonly setInTune: (on: boolean) => void;
  readonly setTrim: (cents: number) => void;
  readonly setVolume: (level: number) => void;
  readonly loopPhrase: (id: string, play: boolean) => Promise<void>;
  readonly loopSpan: (from: number, to: number, play: boolean) => Promise<void>;
  readonly dropLoop: () => void;
  readonly setExact: (exact: boolean) => void;
  readonly ladder: Ladder | null;
  readonly pass: number; // of the rung that sounds, from 1
  readonly setLadder: (ladder: Ladder | null) => void;
  readonly climb: (by: 1 | -1) => void;
};

/** Rungs as the server laid them; `bySelf` climbs after so many passes, else a key does. */
export type Ladder = { readonly rungs: readonly number[]; readonly passes: number; readonly bySelf: boolean };

const askLoop = (solo_id: string, tick: number, end: number) =>
  take(api.GET("/api/solos/{solo_id}/loop", { params: { path: { solo_id }, query: { tick, end } } }));

export function usePlayer(soloId: string): Player {
  const [state, setState] = useState<Told>({ playing: false, pending: false, trouble: null, share: null });
  const [manner, setManner] = useState({
    speed: 1_000,
    inTune: false,
    trim: 0,
    volume: 0.25,
    countIn: false,
    clicks: false,
    exact: false,
    hear: "recording" as Hear,
  });
  const [ladder, putLadder] = useState<Ladder | null>(null);
  const [pass, setPass] = useState(1);
  const climbed = useRef(false); // the engine has changed the speed itself
  const [loop, setLoop] = useState<(Plan & { kind: "loop"; endTick: number; phrase: string | null }) | null>(null);
  const offset = useBench((bench) => bench.bench?.ground.settings.offset_cents ?? 0);
  const past = useBench((bench) => bench.past);
  const engine = useRef<Engine | null>(null);

  useEffect(() => {
    const own = new Engine(soloId, past, setState);
    engine.current = own;
    return () => {
      own.dispose();
      engine.current = null;
    };
  }, [soloId, past]);

  const cents = manner.trim + (manner.inTune ? -offset : 0);
  const now = useRef({
    speed: manner.speed,
    cents,
    clicks: manner.clicks,
    hear: manner.hear,
    countIn: manner.countIn,
    loop,
    exact: manner.exact,
  });
  now.current = {
    speed: manner.speed,
    cents,
    clicks: manner.clicks,
    hear: manner.hear,
    countIn: manner.countIn,
    loop,
    exact: manner.exact,
  };

  // Changes of manner take over while it plays; a moment's patience spares the steps of a dragged slider.
  useEffect(() => {
    if (engine.current?.playing !== true) return undefined;
    if (climbed.current) {
      climbed.current = false;
      return undefined;
    }
    const soon = setTimeout(
      () => void engine.current?.change({ speed: manner.speed, cents, clicks: manner.clicks, hear: manner.hear }),
      120,
    );
    return () => clearTimeout(soon);
  }, [manner.speed, cents, manner.clicks, manner.hear]);

  const run = useCallback((plan: Plan) => {
    void engine.current?.start(
      plan,
      { speed: now.current.speed, cents: now.current.cents, clicks: now.current.clicks, hear: now.current.hear },
      now.current.countIn,
    );
  }, []);

  const takeLoop = useCallback(
    async (
      asked: Promise<{ tick: number; end_tick: number; start: number; end: number }>,
      phrase: string | null,
      play: boolean,
    ) => {
      try {
        const found = await asked;
        const next = {
          kind: "loop" as const,
          start: found.start,
          end: found.end,
          tick: found.tick,
          endTick: found.end_tick,
          phrase,
        };
        setLoop(next);
        if (play || engine.current?.playing === true) run(next);
      } catch (fault) {
        setState((before) => ({ ...before, trouble: sentence(fault) }));
      }
    },
    [run],
  );
  const path = useMemo(() => ({ solo_id: soloId }), [soloId]);
  // What was asked last and not written over since is known without asking.
  const known = useRef<{ key: string; loop: ReturnType<typeof askLoop> } | null>(null);
  const loopOnce = useCallback(
    (what: string, ask: () => ReturnType<typeof askLoop>): ReturnType<typeof askLoop> => {
      const key = `${soloId} ${what} ${JSON.stringify(useBench.getState().versions)}`;
      if (known.current?.key !== key) {
        const loop = ask();
        known.current = { key, loop };
        loop.catch(() => {
          known.current = null;
        });
      }
      return known.current.loop;
    },
    [soloId],
  );
  const loopPhrase = useCallback(
    (id: string, play: boolean) => {
      const { exact } = now.current;
      return takeLoop(
        loopOnce(`${id} ${exact}`, () =>
          take(
            api.GET("/api/solos/{solo_id}/phrases/{phrase_id}/loop", {
              params: { path: { ...path, phrase_id: id }, query: { exact, ...(past === null ? {} : { state: past }) } },
            }),
          ),
        ),
        id,
        play,
      );
    },
    [path, takeLoop, loopOnce, past],
  );
  const loopSpan = useCallback(
    (from: number, to: number, play: boolean) =>
      takeLoop(
        loopOnce(`${from} ${to}`, () => askLoop(soloId, from, to)),
        null,
        play,
      ),
    [soloId, takeLoop, loopOnce],
  );
  const toggle = useCallback(() => {
    if (engine.current?.playing === true) {
      engine.current.stop();
      return;
    }
    const bench = useBench.getState();
    if (now.current.loop !== null) {
      run(now.current.loop);
      return;
    }
    if (bench.selection !== null) {
      void loopSpan(bench.selection.from, bench.selection.to, true);
      return;
    }
    const bars = bench.bench?.strip.bars ?? [];
    const endS = bench.bench?.recording?.seconds ?? bench.grid.second(bars[bars.length - 1]?.end ?? 0) + 1;
    const start = Math.round(bench.grid.second(bench.cursor.tick) * RATE_HZ);
    if (start < endS * RATE_HZ - 100)
      run({ kind: "run", start, end: Math.round(endS * RATE_HZ), tick: bench.cursor.tick });
  }, [run, loopSpan]);

  const dropLoop = useCallback(() => {
    if (engine.current?.playing === true) engine.current.stop();
    setLoop(null);
  }, []);
  // A phrase that goes takes its loop with it.
  const looped = loop?.phrase ?? null;
  const gone = useBench(
    (bench) => looped !== null && bench.bench !== null && bench.elements.phrases[looped] === undefined,
  );
  useEffect(() => {
    if (gone) dropLoop();
  }, [gone, dropLoop]);
  const change = useCallback((part: Partial<typeof manner>) => setManner((before) => ({ ...before, ...part })), []);
  const setSpeed = useCallback(
    (speed: number) => change({ speed: Math.min(FASTEST, Math.max(SLOWEST, Math.round(speed))) }),
    [change],
  );
  const recording = useBench((bench) => bench.bench?.recording != null);
  // What was written is heard anew; nothing is drawn for it here.
  useEffect(
    () =>
      useBench.subscribe(({ elements }, before) => {
        if (elements.notes === before.elements.notes || (recording && now.current.hear === "recording")) return;
        engine.current?.forget();
        if (engine.current?.playing === true)
          void engine.current.change({
            speed: now.current.speed,
            cents: now.current.cents,
            clicks: now.current.clicks,
            hear: now.current.hear,
          });
      }),
    [recording],
  );
  // The clicks lie on the grid: where that moves they are laid anew, while it plays too.
  const grid = useBench((bench) => bench.grid);
  useEffect(() => {
    engine.current?.forget();
    if (now.current.clicks && engine.current?.playing === true)
      void engine.current.change({
        speed: now.current.speed,
        cents: now.current.cents,
        clicks: true,
        hear: now.current.hear,
      });
  }, [grid]);

  // On a ladder: the next rung is fetched when one begins, and taken at the end of its last pass.
  const rung = ladder === null ? -1 : ladder.rungs.findIndex((one) => one >= manner.speed);
  const next = ladder === null || rung < 0 ? undefined : ladder.rungs[rung + 1];
  const sounds = state.playing && !state.pending && loop !== null;
  useEffect(() => {
    if (!sounds || ladder === null) return undefined;
    setPass(1);
    const look = setInterval(() => setPass(1 + (engine.current?.passes() ?? 0)), 200);
    const soon = setTimeout(() => {
      if (next === undefined) return;
      void engine.current?.prepareFor({ speed: next, cents, clicks: manner.clicks, hear: manner.hear });
      if (ladder.bySelf) {
        engine.current?.climbAfter(
          ladder.passes,
          { speed: next, cents, clicks: manner.clicks, hear: manner.hear },
          () => {
            climbed.current = true;
            change({ speed: next });
          },
        );
      }
    }, 700);
    return () => {
      clearInterval(look);
      clearTimeout(soon);
    };
  }, [sounds, ladder, next, cents, manner.speed, manner.clicks, manner.hear, change]);
  const setLadder = useCallback(
    (wanted: Ladder | null) => {
      putLadder(wanted);
      const first = wanted?.rungs[0];
      if (first !== undefined) setSpeed(first);
    },
    [setSpeed],
  );
  const climb = (by: 1 | -1) => {
    const to = ladder?.rungs[Math.min(ladder.rungs.length - 1, Math.max(0, rung + by))];
    if (to !== undefined) setSpeed(to);
  };

  const setExact = (exact: boolean) => {
    change({ exact });
    now.current.exact = exact;
    if (loop?.phrase != null) void loopPhrase(loop.phrase, false);
  };

  return {
    ...state,
    speed: manner.speed,
    countIn: manner.countIn,
    clicks: manner.clicks,
    inTune: manner.inTune,
    trim: manner.trim,
    volume: manner.volume,
    exact: manner.exact,
    loop:
      loop === null
        ? null
        : {
            tick: loop.tick,
            end: loop.endTick,
            phrase: loop.phrase,
            startS: loop.start / RATE_HZ,
            endS: loop.end / RATE_HZ,
          },
    position: useCallback((at?: number) => engine.current?.position(at) ?? null, []),
    toggle,
    stop: useCallback(() => engine.current?.stop(), []),
    setSpeed,
    faster: (by) => {
      if (ladder === null) setSpeed(manner.speed + by * STEP);
      else climb(by > 0 ? 1 : -1);
    },
    stay: () => {
      const sounding = engine.current?.sounding;
      if (sounding == null) engine.current?.stop();
      else setSpeed(sounding);
    },
    ladder,
    pass,
    setLadder,
    climb,
    setCountIn: (countIn) => change({ countIn }),
    setClicks: (clicks) => change({ clicks }),
    hear: manner.hear,
    setHear: (hear) => change({ hear }),
    setInTune: (inTune) => change({ inTune }),
    setTrim: (trim) => change({ trim: Math.min(200, Math.max(-200, Math.round(trim))) }),
    setVolume: (volume) => {
      change({ volume });
      engine.current?.setVolume(volume);
    },
    loopPhrase,
    loopSpan,
    dropLoop,
    setExact,
  };
}
