import { useState } from "react";
import { useCursor } from "@/score/cursor";
import { useDocument } from "@/score/document";
import { Stair } from "@/ui/parts";
import { perform } from "@/score/commands";
import { usePlaying } from "@/score/playing";
import { SOUND } from "./commands";
import { LadderDialog } from "./LadderDialog";
import { player, RUNGS } from "./player";

const HEARD = { recording: "recording", writing: "the writing", beside: "both, apart" } as const;

/** Play, what loops, the stair of speeds, count-in, tuning and volume. */
export function Transport() {
  const state = usePlaying();
  const bench = useDocument((state) => state.bench);
  const phrases = useDocument((state) => state.elements.phrases);
  const cursor = useCursor((state) => state.cursor);
  const [laying, setLaying] = useState(false);
  if (bench === null) return null;
  const { ladder, loop } = state;
  const offset = bench.ground.settings.offset_cents;
  const bar = (tick: number) => bench.strip.bars.find((one) => tick >= one.tick && tick < one.end)?.label ?? "";
  const title =
    loop === null
      ? `${state.playing ? "Playing" : "Play"} from bar ${bar(cursor.tick)}`
      : `${state.playing ? "Looping" : "Loop:"} ${loop.phrase === null ? "the span" : (phrases[loop.phrase]?.name ?? "a phrase")}`;
  const last = loop === null ? "" : bar(loop.end - 1);
  const detail =
    state.trouble ??
    (state.pending
      ? state.share === null
        ? "one moment …"
        : `made to ${Math.round(state.share * 100)} %`
      : loop === null
        ? bench.recording === null
          ? "the writing, with a click"
          : "space plays and stops"
        : `bars ${bar(loop.tick)}${last === bar(loop.tick) ? "" : `–${last}`}`);
  return (
    <section
      aria-label="Transport"
      className="flex min-h-[78px] items-center gap-4 bg-paper sm:sticky sm:bottom-0 sm:z-30 overflow-x-auto border-t border-rule px-5 max-sm:flex-wrap max-sm:gap-3 max-sm:py-3"
    >
      <button
        type="button"
        onClick={() => perform(SOUND.play)}
        aria-label={state.playing ? "Stop" : "Play"}
        className="grid size-[60px] shrink-0 max-sm:size-[84px] place-items-center rounded-full bg-ink text-paper"
      >
        <svg width="24" height="24" viewBox="0 0 24 24" fill="currentColor" aria-hidden>
          {state.playing ? <path d="M5 3h5v18H5zM14 3h5v18h-5z" /> : <path d="M6 2v20l16-10z" />}
        </svg>
      </button>
      <div className="w-[186px] shrink-0">
        <p className="truncate text-[17px] font-bold">{title}</p>
        <p
          role={state.trouble === null ? undefined : "alert"}
          className={`truncate text-[14px] ${state.trouble === null ? "text-ink-2" : "font-bold text-doubt"}`}
          title={detail}
        >
          {detail}
          {state.share !== null && (
            <>
              {" · "}
              <button type="button" className="underline underline-offset-2" onClick={player.stayAsItSounds}>
                cancel
              </button>
            </>
          )}
          {state.share === null && loop !== null && (
            <>
              {" · "}
              <button type="button" className="underline underline-offset-2" onClick={player.dropLoop}>
                no loop
              </button>
              {loop.phrase !== null && (
                <>
                  {" · "}
                  <button
                    type="button"
                    className="underline underline-offset-2"
                    onClick={() => player.setExact(!state.exact)}
                  >
                    {state.exact ? "whole bars" : "exactly"}
                  </button>
                </>
              )}
            </>
          )}
        </p>
      </div>
      <div className="flex items-center gap-3 max-sm:flex-wrap">
        <Stair
          label="Speed"
          rungs={ladder?.rungs.length !== undefined && ladder.rungs.length <= 12 ? ladder.rungs : RUNGS}
          value={state.speed}
          sounding={state.playing}
          onChange={player.setSpeed}
        />
        <label className="flex flex-col text-[13px] text-ink-2">
          speed
          <span className="whitespace-nowrap">
            <input
              type="number"
              aria-label="Speed in per cent"
              min={25}
              max={125}
              step={5}
              value={state.speed / 10}
              onChange={(event) => event.target.value && player.setSpeed(Number(event.target.value) * 10)}
              className="w-[62px] rounded-[4px] border border-rule-2 bg-sheet px-1 py-[2px] text-[16px] font-bold text-ink"
            />{" "}
            %
          </span>
        </label>
        {ladder === null ? (
          <button
            type="button"
            className="rounded-[4px] px-1 text-left leading-tight hover:bg-paper"
            onClick={() => setLaying(true)}
          >
            <span className="block font-bold">Ladder …</span>
            <span className="block whitespace-nowrap text-[13px] text-ink-2">go up while it loops</span>
          </button>
        ) : (
          <div className="flex items-center gap-1">
            <p className="whitespace-nowrap leading-tight" role="status" aria-label="Ladder">
              <span className="block font-bold">
                {state.playing && loop !== null
                  ? `pass ${Math.min(state.pass, ladder.passes)} of ${ladder.passes}`
                  : `${ladder.passes} a rung`}
              </span>
              <button
                type="button"
                className="block text-[13px] text-ink-2 underline underline-offset-2"
                onClick={() => player.setLadder(null)}
              >
                end the ladder
              </button>
            </p>
            <button
              type="button"
              aria-label="A step down"
              className="size-9 rounded-[4px] border border-rule-2 bg-sheet font-bold"
              onClick={() => perform(SOUND.slower)}
            >
              −
            </button>
            <button
              type="button"
              aria-label="A step up"
              className="size-9 rounded-[4px] border border-rule-2 bg-sheet font-bold"
              onClick={() => perform(SOUND.faster)}
            >
              +
            </button>
          </div>
        )}
        {laying && <LadderDialog speed={state.speed} onClose={() => setLaying(false)} onLay={player.setLadder} />}
      </div>
      <div className="flex shrink-0 flex-col gap-1">
        <div className="flex items-center gap-3">
          <label
            className="flex items-center gap-2 whitespace-nowrap font-bold"
            title="a bar of clicks before it plays"
          >
            <input
              type="checkbox"
              className="size-4 accent-[var(--ink)]"
              checked={state.countIn}
              onChange={(event) => player.setCountIn(event.target.checked)}
            />
            Count-in 1 bar
          </label>
          {bench.recording !== null && (
            <label
              className="flex items-center gap-2 font-bold"
              title="a click on every beat of the grid, in step at every speed"
            >
              <input
                type="checkbox"
                className="size-4 accent-[var(--ink)]"
                checked={state.clicks}
                onChange={(event) => player.setClicks(event.target.checked)}
              />
              Click
            </label>
          )}
        </div>
        <div className="flex items-center gap-2">
          <label
            className="flex items-center gap-2 whitespace-nowrap font-bold"
            title={offset === 0 ? "recording at pitch" : `recording ${offset > 0 ? "+" : ""}${offset} cents`}
          >
            <input
              type="checkbox"
              className="size-4 accent-[var(--ink)]"
              checked={state.inTune}
              onChange={(event) => player.setInTune(event.target.checked)}
            />
            In tune
            {offset === 0 ? (
              ""
            ) : (
              <span className="font-normal text-ink-2">
                {offset > 0 ? "+" : ""}
                {offset}
              </span>
            )}
          </label>
          <label className="flex items-center gap-1 text-[13px] text-ink-2">
            trim
            <input
              type="number"
              aria-label="Trim in cents"
              min={-200}
              max={200}
              value={state.trim}
              onChange={(event) => player.setTrim(Number(event.target.value))}
              className="w-[52px] rounded-[4px] border border-rule-2 bg-sheet px-1 text-ink"
            />
          </label>
        </div>
      </div>
      {bench.recording !== null && (
        <button
          type="button"
          title="the recording, the writing by the program's guitar, or one left and one right"
          className="w-[82px] shrink-0 rounded-[4px] px-1 text-left leading-tight hover:bg-paper"
          onClick={() => perform(SOUND.hear)}
        >
          <span className="block text-[13px] text-ink-2">hear</span>{" "}
          <span className="block whitespace-nowrap font-bold">{HEARD[state.hear]}</span>
        </button>
      )}
      <label className="ml-auto w-[84px] shrink-0">
        <span className="block font-bold">Volume</span>
        <input
          type="range"
          aria-label="Volume"
          min={0}
          max={1}
          step={0.01}
          value={state.volume}
          onChange={(event) => player.setVolume(Number(event.target.value))}
          className="w-full accent-[var(--ink)]"
        />
        {state.volume > 0.7 && (
          <span className="block text-[13px] font-bold text-doubt">loud for long: rest your ears</span>
        )}
      </label>
    </section>
  );
}
