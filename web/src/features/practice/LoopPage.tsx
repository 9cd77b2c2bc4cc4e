import { type MouseEvent, type ReactNode, useEffect, useRef } from "react";
import { useLook } from "@/score/look";
import { Button } from "@/ui/parts";
import { Remarks } from "./Remarks";
import { besides, practice, silenceOf, usePractice } from "./practice";
import { SoundSettings } from "./SoundSettings";
import { PracticeStair } from "./PracticeStair";
import { PlayedStrip } from "./PlayedStrip";
import { BottomSheet } from "@/ui/BottomSheet";

type Props = {
  soloId: string;
  line: string;
  onLine: (key: string) => void;
  /** Where one came from, and what changes the look. */
  children: ReactNode;
};

const TYPED_INTO = "input, textarea, select, [role=combobox], [role=dialog], [role=slider]";

/** What was clicked does not keep the focus: the next press of space is for the player. Keys leave it where it is. */
const letGo = (event: MouseEvent): void => {
  if (event.detail > 0) (event.target as HTMLElement).closest("button")?.blur();
};

/** To play from, on a music stand or a phone: the strip, what sounds, the remark, the stair. */
export function LoopPage({ soloId, line, onLine, children }: Props) {
  const view = usePractice((state) => state.view);
  const trouble = usePractice((state) => state.lineTrouble);
  const pedalArrows = useLook((look) => look.pedalArrows);
  const reader = useLook((look) => look.reader);
  useEffect(() => practice.open(soloId), [soloId]);
  useEffect(() => void practice.load(line), [soloId, line, reader]);
  useEffect(() => {
    document.title = view === null ? "Practice · Usagi" : `${view.line.name} · Usagi`;
  }, [view]);
  useAwake();
  useKeys(pedalArrows, onLine);
  if (view === null)
    return (
      <main className="p-8">
        <h1 className="sr-only">Practice</h1>
        <p role={trouble === "" ? undefined : "alert"} className="text-[18px]">
          {trouble || "Opening the line …"}
        </p>
        <div className="mt-4">{children}</div>
      </main>
    );
  return (
    <div className="flex h-full min-h-0 flex-col overflow-y-auto" onClick={letGo}>
      <header className="flex flex-wrap items-baseline gap-x-5 gap-y-1 px-6 pt-3 max-sm:px-4 low:flex-nowrap low:pt-0">
        <h1 className="font-naming text-[30px] font-semibold leading-tight max-sm:text-[26px] low:shrink-0 low:text-[20px]">
          {view.line.name}
        </h1>
        <p className="min-w-0 truncate text-[16px] text-ink-2">
          {[view.line.where, view.tune, view.who].filter(Boolean).join(" · ")}
        </p>
        <div className="ml-auto flex items-baseline gap-4 whitespace-nowrap max-sm:ml-0">{children}</div>
      </header>
      <main className="flex flex-1 flex-col">
        <PlayedStrip view={view} />
        <Remarks remarks={view.remarks} />
      </main>
      <Controls onLine={onLine} />
    </div>
  );
}

function Controls({ onLine }: { onLine: (key: string) => void }) {
  const { view, playing, pending, share, stand, said, missedNow, trouble, lineTrouble, free, loopedS, sound } =
    usePractice();
  if (view === null) return null;
  const silence = silenceOf(sound, view);
  const beside = besides(sound, view.recorded);
  const wrong = lineTrouble || trouble; // what was asked for last
  const step = view.line.steps[stand.step];
  const speed = free === null ? `${step?.percent} %, ${step?.bpm} a minute` : `${free / 10} %`;
  const pass =
    free !== null
      ? "beside the stair"
      : stand.clean >= view.line.passes
        ? "at the goal, and clean"
        : `pass ${stand.clean + 1} of ${view.line.passes}`;
  const rest = loopedS >= view.cautions.rest_after_s;
  const turn = (by: 1 | -1) => {
    const next = practice.neighbour(by);
    if (next !== null) onLine(next);
  };
  return (
    <section
      aria-label="Player"
      className="sticky bottom-0 z-20 border-t border-rule bg-sheet px-6 py-3 max-sm:px-4 low:py-1"
    >
      {rest && (
        <p role="status" aria-label="Break" className="mb-2 flex items-center gap-4 text-[17px] font-bold text-doubt">
          {view.cautions.rest}
          <Button size="small" onClick={practice.rested}>
            Go on
          </Button>
        </p>
      )}
      {wrong !== "" && (
        <p role="alert" className="mb-2 font-bold text-doubt">
          {wrong}
        </p>
      )}
      {silence !== "" && (
        <p role="status" aria-label="Silence" className="mb-2 font-bold text-doubt">
          {silence} Passes do not count.
        </p>
      )}
      <span className="contents low:hidden">
        <PracticeStair />
      </span>
      <div className="flex flex-wrap items-center gap-x-5 gap-y-2 max-sm:gap-x-3 low:flex-nowrap">
        <button
          type="button"
          aria-label={playing ? "Stop" : "Play"}
          onClick={practice.toggle}
          className="grid size-[84px] shrink-0 place-items-center rounded-full bg-ink text-paper low:size-[64px]"
        >
          <svg width="30" height="30" viewBox="0 0 24 24" fill="currentColor" aria-hidden>
            {playing ? <path d="M5 3h5v18H5zM14 3h5v18h-5z" /> : <path d="M6 2v20l16-10z" />}
          </svg>
        </button>
        <div className="min-w-0 flex-1">
          <p
            role="status"
            aria-label="Where you are"
            className="text-[20px] font-bold leading-tight max-sm:text-[18px]"
          >
            {speed}, {pass}
          </p>
          <p className="text-[16px] text-ink-2">
            {pending
              ? share === null
                ? "one moment …"
                : `made to ${Math.round(share * 100)} %`
              : said || <Keys playing={playing} />}
          </p>
          {beside !== "" && (
            <p role="status" aria-label="What sounds besides" className="text-[15px] text-ink-2">
              {beside}
            </p>
          )}
        </div>
        <div className="grid grid-cols-[repeat(3,minmax(104px,auto))] gap-2 max-sm:w-full max-sm:grid-cols-3 low:grid-cols-[repeat(6,auto)]">
          <Large onClick={practice.missed} pressed={missedNow} disabled={!playing}>
            Missed
          </Large>
          <Large onClick={() => practice.step(-1)}>Slower</Large>
          <Large onClick={() => practice.step(1)}>Faster</Large>
          <Button aria-label="Line before" onClick={() => turn(-1)} disabled={practice.neighbour(-1) === null}>
            ← Line
          </Button>
          <BottomSheet title="How it sounds" trigger="Sound">
            <SoundSettings />
          </BottomSheet>
          <Button aria-label="Next line" onClick={() => turn(1)} disabled={practice.neighbour(1) === null}>
            Line →
          </Button>
        </div>
      </div>
    </section>
  );
}

/** The keys of the moment; a phone has none. */
const Keys = ({ playing }: { playing: boolean }) => (
  <span className="max-sm:hidden low:hidden">
    {playing ? "M or the left pedal: missed" : "space or the right pedal starts"}
  </span>
);

function Large({
  pressed,
  children,
  ...rest
}: {
  onClick: () => void;
  pressed?: boolean;
  disabled?: boolean;
  children: ReactNode;
}) {
  return (
    <button
      type="button"
      aria-pressed={pressed}
      className={`min-h-[52px] rounded-[5px] border px-3 text-[18px] font-bold disabled:text-ink-3 ${pressed === true ? "border-doubt text-doubt" : "border-rule-2 bg-paper hover:border-ink"}`}
      {...rest}
    >
      {children}
    </button>
  );
}

/** The screen stays awake while the page is open, where the browser can keep it so. */
function useAwake(): void {
  useEffect(() => {
    if (!("wakeLock" in navigator)) return;
    let lock: WakeLockSentinel | null = null;
    let open = true;
    const keep = () => {
      if (document.visibilityState !== "visible") return;
      navigator.wakeLock.request("screen").then(
        (kept) => {
          if (open) lock = kept;
          else void kept.release();
        },
        () => undefined, // a battery that is low, or a browser that refuses
      );
    };
    keep();
    document.addEventListener("visibilitychange", keep);
    return () => {
      open = false;
      document.removeEventListener("visibilitychange", keep);
      void lock?.release();
    };
  }, []);
}

/** Keys and pedal, wherever the focus is but for fields and dialogs. */
function useKeys(pedalArrows: boolean, onLine: (key: string) => void): void {
  const turned = useRef(onLine);
  turned.current = onLine;
  useEffect(() => {
    const line = (by: 1 | -1) => {
      const next = practice.neighbour(by);
      if (next !== null) turned.current(next);
    };
    const acts: Readonly<Record<string, () => void>> = {
      Space: practice.toggle,
      PageDown: practice.toggle,
      PageUp: practice.missed,
      KeyM: practice.missed,
      BracketLeft: () => practice.step(-1),
      BracketRight: () => practice.step(1),
      ArrowDown: () => practice.step(-1),
      ArrowUp: () => practice.step(1),
      ArrowRight: pedalArrows ? practice.toggle : () => line(1),
      ArrowLeft: pedalArrows ? practice.missed : () => line(-1),
    };
    const press = (event: KeyboardEvent) => {
      if (event.repeat || event.ctrlKey || event.metaKey || event.altKey || event.shiftKey || event.isComposing) return;
      const target = event.target as HTMLElement;
      if (target.closest(TYPED_INTO) !== null) return;
      if (event.code === "Space" && target.closest("button, a, summary") !== null) return;
      const act = acts[event.code];
      if (act === undefined) return;
      event.preventDefault();
      act();
    };
    window.addEventListener("keydown", press);
    return () => window.removeEventListener("keydown", press);
  }, [pedalArrows]);
}
