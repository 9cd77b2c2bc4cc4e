/** The player: play, loop, the last two seconds again, and how it sounds. On a phone the rest is in a sheet from below. */
import type { ReactNode } from "react";
import { type Command, perform } from "@/score/commands";
import { useCursor } from "@/score/cursor";
import { useDocument } from "@/score/document";
import { capOf } from "@/score/hand";
import { codeOf, keysOf } from "@/score/keymap";
import { useLook } from "@/score/look";
import { usePlaying } from "@/score/playing";
import { BottomSheet } from "@/ui/BottomSheet";
import { Key } from "@/ui/parts";
import { useNarrow } from "@/ui/useNarrow";
import { SOUND } from "./commands";
import { LoopRemarks } from "./LoopRemarks";
import { HearAndVolume, LadderControl, Speed, Step, Switches } from "./controls";
import { player } from "./player";

/** `tools`: what a narrow screen shows beside the player. */
export function Transport({ tools }: { tools?: ReactNode }) {
  const open = useDocument((state) => state.bench !== null);
  const narrow = useNarrow();
  if (!open) return null;
  const buttons = (
    <>
      <Play />
      <Loop />
      <Again />
    </>
  );
  return narrow ? (
    <section
      aria-label="Transport"
      className="sticky bottom-0 z-30 flex flex-col gap-1 border-t border-rule bg-paper px-3 pb-2 pt-1"
    >
      <LoopRemarks />
      <WhatPlays />
      <div className="flex items-center gap-2">
        {buttons}
        <div className="flex min-w-0 flex-1 flex-col gap-2">
          <div className="flex items-center justify-between">
            <Step by={-1} />
            <SpeedNow />
            <Step by={1} />
          </div>
          <div className="grid grid-cols-2 gap-2">
            <BottomSheet title="How it sounds" trigger="Sound">
              <div className="flex flex-col gap-4">
                <div className="flex flex-wrap items-end gap-3">
                  <Speed />
                </div>
                <LadderControl steps={false} />
                <Switches />
                <HearAndVolume />
              </div>
            </BottomSheet>
            {tools}
          </div>
        </div>
      </div>
    </section>
  ) : (
    <section aria-label="Transport" className="sticky bottom-0 z-30">
      <LoopRemarks />
      <div className="flex min-h-[78px] items-center gap-3 overflow-x-auto border-t border-rule bg-paper px-5">
        <div className="flex items-center gap-2">{buttons}</div>
        <div className="w-[150px] shrink-0">
          <WhatPlays />
        </div>
        <Speed />
        <LadderControl steps />
        <Switches />
        <HearAndVolume />
      </div>
    </section>
  );
}

function Play() {
  const playing = usePlaying((state) => state.playing);
  return (
    <button
      type="button"
      onClick={() => perform(SOUND.play)}
      aria-label={playing ? "Stop" : "Play"}
      className="grid size-[60px] shrink-0 place-items-center rounded-full bg-ink text-paper max-sm:size-[84px]"
    >
      <svg width="24" height="24" viewBox="0 0 24 24" fill="currentColor" aria-hidden>
        {playing ? <path d="M5 3h5v18H5zM14 3h5v18h-5z" /> : <path d="M6 2v20l16-10z" />}
      </svg>
    </button>
  );
}

type ControlProps = { command: Command; pressed?: boolean; children: ReactNode };

/** A control of the player in words, with its key under them. */
function Control({ command, pressed, children }: ControlProps) {
  const keys = keysOf(useLook());
  return (
    <button
      type="button"
      aria-pressed={pressed}
      title={command.says}
      onClick={() => perform(command)}
      className={`flex h-[60px] w-[58px] shrink-0 flex-col items-center justify-center gap-[2px] rounded-[5px] border font-bold leading-tight max-sm:h-[84px] max-sm:w-[56px] ${pressed === true ? "border-sound bg-sound-tint" : "border-rule-2 bg-sheet hover:border-ink"}`}
    >
      {children}
      <span aria-hidden className="max-sm:hidden">
        <Key>{capOf(codeOf(command, keys))}</Key>
      </span>
    </button>
  );
}

function Loop() {
  const loops = usePlaying((state) => state.loop !== null);
  return (
    <Control command={SOUND.loop} pressed={loops}>
      Loop
    </Control>
  );
}

function Again() {
  return (
    <Control command={SOUND.back}>
      <span className="text-[14px]">Last 2 s</span>
    </Control>
  );
}

function SpeedNow() {
  const speed = usePlaying((state) => state.speed);
  return (
    <p aria-label="Speed now" className="whitespace-nowrap text-[16px] font-bold">
      {speed / 10} %
    </p>
  );
}

/** What plays or would play, and what is so with it. */
function WhatPlays() {
  const { loop, playing, pending, share, trouble, exact } = usePlaying();
  const bars = useDocument((state) => state.bench?.strip.bars);
  const recorded = useDocument((state) => state.bench?.recording !== null);
  const phrases = useDocument((state) => state.elements.phrases);
  const cursor = useCursor((state) => state.cursor);
  const bar = (tick: number) => bars?.find((one) => tick >= one.tick && tick < one.end)?.label ?? "";
  const title =
    loop === null
      ? `${playing ? "Playing" : "Play"} from bar ${bar(cursor.tick)}`
      : `${playing ? "Looping" : "Loop:"} ${loop.phrase === null ? "the span" : (phrases[loop.phrase]?.name ?? "a phrase")}`;
  const last = loop === null ? "" : bar(loop.end - 1);
  const detail =
    trouble ??
    (pending
      ? share === null
        ? "one moment …"
        : `made to ${Math.round(share * 100)} %`
      : loop === null
        ? recorded
          ? "space plays and stops"
          : "the writing, with a click"
        : `bars ${bar(loop.tick)}${last === bar(loop.tick) ? "" : `–${last}`}`);
  const bare = trouble === null && !pending && loop === null;
  const link = (words: string, act: () => void) => (
    <>
      {" · "}
      <button type="button" className="underline underline-offset-2" onClick={act}>
        {words}
      </button>
    </>
  );
  return (
    <div className="min-w-0 max-sm:flex max-sm:items-baseline max-sm:gap-3">
      <p className="truncate text-[17px] font-bold">{title}</p>
      <p
        role={trouble === null ? undefined : "alert"}
        className={`truncate text-[14px] ${trouble === null ? "text-ink-2" : "font-bold text-doubt"}`}
        title={detail}
      >
        <span className={bare ? "max-sm:hidden" : undefined}>{detail}</span>
        {share !== null && link("cancel", player.stayAsItSounds)}
        {share === null &&
          loop?.phrase != null &&
          link(exact ? "whole bars" : "exactly", () => player.setExact(!exact))}
      </p>
    </div>
  );
}
