import { useEffect, useRef, useState } from "react";
import { api, type Schemas, sentence, take } from "@/api/client";
import { isOpen, leave, watch } from "@/api/estimates";
import { useLook } from "@/score/look";
import { COUNTS, type PlanLine, type PlanView } from "@/score/teaching";
import { InputDialog } from "@/ui/InputDialog";
import { Choose, Field, Tick } from "@/ui/parts";

type Wanted = Schemas["PackWanted"];
type Estimate = Schemas["Estimate"];
const LOOK_MS = 300;
type Span = { readonly words: string; readonly start: number; readonly end: number };
/** A line of the plan at its steps, or one of some spans at speeds that are chosen here. */
type What = { line: PlanLine; spans?: undefined } | { spans: readonly Span[]; line?: undefined };
type Props = What & { soloId: string; cautions: PlanView["cautions"]; onClose: () => void };
const SPEEDS = [500, 600, 700, 750, 800, 900, 1_000] as const;

/** The steps of a line, or a span at some speeds, as sound files in one archive, made by a worker. */
export function LoopPackDialog({ soloId, line, spans, cautions, onClose }: Props) {
  const [at, setAt] = useState(0);
  const [wanted, setWanted] = useState<Wanted>({
    line: line?.key ?? "whole",
    span: spanOf(spans?.[0]),
    speeds: line === undefined ? [1_000] : [],
    format: "flac",
    passes: line?.passes ?? 1,
    count_in: true,
    around: false,
    recording: 1,
    voice: 0,
    vamp: 0,
    count: "none",
    key: 0,
    over: "",
    school: useLook.getState().reader.school,
  });
  const [estimate, setEstimate] = useState<Estimate | null>(null);
  const [trouble, setTrouble] = useState<string | null>(null);
  const running = useRef<Estimate | null>(null);
  const end = useRef<(() => void) | null>(null);
  useEffect(
    () => () => {
      end.current?.();
      if (running.current !== null) leave(running.current);
    },
    [],
  );
  const set = (change: Partial<Wanted>) => {
    setWanted({ ...wanted, ...change });
    setEstimate(null);
  };
  const make = async () => {
    setTrouble(null);
    try {
      const asked = await take(
        api.POST("/api/solos/{solo_id}/loop-packs", { params: { path: { solo_id: soloId } }, body: wanted }),
      );
      const see = (now: Estimate) => {
        running.current = isOpen(now) ? now : null;
        setEstimate(now);
        if (now.state === "failed") setTrouble(now.trouble);
      };
      end.current = watch(asked, LOOK_MS, see, (fault) => setTrouble(sentence(fault)));
      return undefined;
    } catch (fault) {
      return sentence(fault);
    }
  };
  const heard = (name: "recording" | "voice" | "vamp", label: string, level = 1) => (
    <Tick label={label} on={wanted[name] > 0} onTick={(on) => set({ [name]: on ? level : 0 })} />
  );
  const tick = (name: "count_in" | "around", label: string) => (
    <Tick label={label} on={wanted[name]} onTick={(on) => set({ [name]: on })} />
  );
  const done = estimate?.state === "done";
  return (
    <InputDialog
      title={line === undefined ? "Sound" : `Loop pack: ${line.name}`}
      submit={estimate !== null && isOpen(estimate) ? "Making it …" : line === undefined ? "Make it" : "Make the pack"}
      disabled={(estimate !== null && isOpen(estimate)) || (line === undefined && wanted.speeds.length === 0)}
      trouble={trouble}
      onSubmit={make}
      onClose={onClose}
    >
      {line !== undefined && (
        <p className="text-[15px] text-ink-2">
          A sound file for each of {line.steps.length} step{line.steps.length > 1 ? "s" : ""}, named so that they sort.
        </p>
      )}
      {spans !== undefined && (
        <>
          <Choose
            label="Of"
            options={spans.map((one, i) => ({ value: String(i), words: one.words }))}
            value={String(at)}
            onChoose={(value) => {
              setAt(Number(value));
              set({ span: spanOf(spans[Number(value)]) });
            }}
          />
          <fieldset className="flex flex-wrap gap-x-5">
            <legend className="font-bold text-ink-2">A file for each speed</legend>
            {SPEEDS.map((speed) => (
              <Tick
                key={speed}
                label={`${speed / 10} %`}
                on={wanted.speeds.includes(speed)}
                onTick={(on) =>
                  set({ speeds: SPEEDS.filter((one) => (one === speed ? on : wanted.speeds.includes(one))) })
                }
              />
            ))}
          </fieldset>
        </>
      )}
      <div className="grid grid-cols-3 gap-3">
        <Choose
          label="Format"
          options={[
            { value: "flac", words: "FLAC" },
            { value: "opus", words: "Opus" },
            { value: "mp3", words: "MP3" },
            { value: "wav", words: "WAV" },
          ]}
          value={wanted.format}
          onChoose={(format) => set({ format: format as Wanted["format"] })}
        />
        <Field
          label="Passes"
          type="number"
          required
          min={1}
          max={50}
          value={wanted.passes ?? 1}
          onChange={(event) => set({ passes: Number(event.target.value) })}
        />
        <Choose
          label="Count"
          options={COUNTS}
          value={wanted.count}
          onChoose={(count) => set({ count: count as Wanted["count"] })}
        />
      </div>
      <div className="flex flex-wrap gap-x-6 gap-y-2">
        {heard("recording", "Recording")}
        {heard("voice", "The writing, played")}
        {heard("vamp", "Vamp", 0.8)}
        {tick("count_in", "One bar counted first")}
        {tick("around", "Half a bar before and after")}
      </div>
      <p className="text-[14px] text-ink-2">
        {cautions.ears} {cautions.copies}
      </p>
      {estimate !== null && isOpen(estimate) && (
        <progress aria-label="Loop pack" value={estimate.share} className="h-3 w-full accent-[var(--ink)]" />
      )}
      {done && (
        <p role="status" aria-label="The pack" className="flex items-center gap-4 font-bold">
          {estimate.found?.sentence}
          <a className="rounded-[5px] bg-ink px-4 py-2 text-paper" href={`/api/loop-packs/${estimate.id}/file`}>
            Save the archive
          </a>
        </p>
      )}
    </InputDialog>
  );
}

const spanOf = (span: Span | undefined): [number, number] | null =>
  span === undefined ? null : [span.start, span.end];
