/** How it sounds: speed, ladder, count-in, click, tuning, what is heard, volume. Beside the player, or in a phone's sheet. */
import { type ReactNode, useState } from "react";
import { perform } from "@/score/commands";
import { useDocument } from "@/score/document";
import { usePlaying } from "@/score/playing";
import { Stair } from "@/ui/parts";
import { SOUND } from "./commands";
import { LadderDialog } from "./LadderDialog";
import { player, RUNGS } from "./player";

const HEARD = {
  recording: "recording",
  writing: "the writing",
  beside: "each ear",
  together: "both",
  turns: "bar by bar",
  chords: "over chords",
} as const;
const NUMBER = "h-8 rounded-[4px] border border-rule-2 bg-sheet px-1 text-ink";

export function Speed() {
  const { ladder, speed, playing } = usePlaying();
  const rungs = ladder !== null && ladder.rungs.length <= 12 ? ladder.rungs : RUNGS;
  return (
    <>
      <Stair label="Speed" rungs={rungs} value={speed} sounding={playing} onChange={player.setSpeed} />
      <label className="flex flex-col text-[13px] text-ink-2">
        speed
        <span className="whitespace-nowrap">
          <input
            type="number"
            aria-label="Speed in per cent"
            min={25}
            max={125}
            step={5}
            value={speed / 10}
            onChange={(event) => event.target.value && player.setSpeed(Number(event.target.value) * 10)}
            className={`${NUMBER} w-[58px] text-[16px] font-bold`}
          />{" "}
          %
        </span>
      </label>
    </>
  );
}

/** A step of the ladder, or five per cent. */
export function Step({ by }: { by: 1 | -1 }) {
  return (
    <button
      type="button"
      aria-label={by < 0 ? "A step down" : "A step up"}
      className="size-9 rounded-[4px] border border-rule-2 bg-sheet font-bold max-sm:size-11"
      onClick={() => perform(by < 0 ? SOUND.slower : SOUND.faster)}
    >
      {by < 0 ? "−" : "+"}
    </button>
  );
}

export function LadderControl({ steps }: { steps: boolean }) {
  const { ladder, loop, pass, playing, speed } = usePlaying();
  const [laying, setLaying] = useState(false);
  return (
    <>
      {ladder === null ? (
        <button
          type="button"
          className="rounded-[4px] px-1 text-left leading-tight hover:bg-sheet"
          title="go up in speed while it loops"
          onClick={() => setLaying(true)}
        >
          <span className="block text-[13px] text-ink-2">by steps</span>
          <span className="block whitespace-nowrap font-bold">Ladder …</span>
        </button>
      ) : (
        <div className="flex items-center gap-1">
          <p className="whitespace-nowrap leading-tight" role="status" aria-label="Ladder">
            <span className="block font-bold">
              {playing && loop !== null
                ? `pass ${Math.min(pass, ladder.passes)} of ${ladder.passes}`
                : `${ladder.passes} a step`}
            </span>
            <button
              type="button"
              className="block text-[13px] text-ink-2 underline underline-offset-2"
              onClick={() => player.setLadder(null)}
            >
              end the ladder
            </button>
          </p>
          {steps && (
            <>
              <Step by={-1} />
              <Step by={1} />
            </>
          )}
        </div>
      )}
      {laying && <LadderDialog speed={speed} onClose={() => setLaying(false)} onLay={player.setLadder} />}
    </>
  );
}

type SwitchProps = { on: boolean; set: (on: boolean) => void; title: string; children: ReactNode };

function Switch({ on, set, title, children }: SwitchProps) {
  return (
    <label className="flex h-8 items-center gap-2 whitespace-nowrap font-bold" title={title}>
      <input
        type="checkbox"
        className="size-4 accent-[var(--ink)]"
        checked={on}
        onChange={(event) => set(event.target.checked)}
      />
      {children}
    </label>
  );
}

export function Switches() {
  const { clicks, countIn, inTune, trim } = usePlaying();
  const sounds = useDocument(({ bench }) => bench?.recording != null);
  const offset = useDocument(({ bench }) => bench?.ground.settings.offset_cents ?? 0);
  const signed = `${offset > 0 ? "+" : ""}${offset}`;
  return (
    <div className="flex shrink-0 flex-col">
      <div className="flex items-center gap-3">
        <Switch on={countIn} set={player.setCountIn} title="a bar of clicks before it plays">
          Count-in 1 bar
        </Switch>
        {sounds && (
          <Switch on={clicks} set={player.setClicks} title="a click on every beat of the grid, in step at every speed">
            Click
          </Switch>
        )}
      </div>
      <div className="flex items-center gap-2">
        <Switch
          on={inTune}
          set={player.setInTune}
          title={offset === 0 ? "recording at pitch" : `recording ${signed} cents`}
        >
          In tune
          {offset !== 0 && <span className="font-normal text-ink-2">{signed}</span>}
        </Switch>
        <label className="flex items-center gap-1 text-[13px] text-ink-2">
          trim
          <input
            type="number"
            aria-label="Trim in cents"
            min={-200}
            max={200}
            value={trim}
            onChange={(event) => player.setTrim(Number(event.target.value))}
            className={`${NUMBER} w-[54px]`}
          />
        </label>
      </div>
    </div>
  );
}

export function HearAndVolume() {
  const { hear, volume } = usePlaying();
  const sounds = useDocument(({ bench }) => bench?.recording != null);
  return (
    <div className="ml-auto flex w-[128px] shrink-0 flex-col max-sm:ml-0 max-sm:w-full">
      {sounds && (
        <button
          type="button"
          title="the recording, the writing by the program's guitar, one left and one right, both together, or bar by bar in turns; or the writing over its chords"
          className="flex h-8 items-center gap-1 whitespace-nowrap rounded-[4px] text-left hover:bg-sheet"
          onClick={() => perform(SOUND.hear)}
        >
          <span className="text-[13px] text-ink-2">hear</span> <span className="font-bold">{HEARD[hear]}</span>
        </button>
      )}
      <label className="flex h-8 items-center gap-2 text-[13px] text-ink-2">
        volume
        <input
          type="range"
          aria-label="Volume"
          min={0}
          max={1}
          step={0.01}
          value={volume}
          onChange={(event) => player.setVolume(Number(event.target.value))}
          className="min-w-0 flex-1 accent-[var(--ink)]"
        />
      </label>
      {volume > 0.7 && <span className="text-[13px] font-bold text-doubt">loud for long: rest your ears</span>}
    </div>
  );
}
