import { useEffect, useState } from "react";
import { api, type Schemas, take as fetched } from "@/api/client";
import { Button } from "@/ui/parts";
import { Select } from "@/ui/Select";

type Estimate = Schemas["Estimate"];
type Found = Schemas["Found"];
type Pace = Found["paces"][number];
const LOOK_MS = 400;

/** What is taken over into the form. */
export type Taken = {
  readonly tempo?: number;
  readonly barOneS?: number;
  /** Beats in seconds, the first of them beat 1 of bar 1; the grid follows them when the solo is begun. */
  readonly beats?: readonly number[];
  /** Of a swing; null: it is straight. */
  readonly ratio?: number | null;
  readonly cents?: number;
  readonly chart?: string;
};

const said = (doubt: string): string => (doubt === "" ? "" : `${doubt}: `);
const behind = (doubt: string): string => (doubt === "" ? "" : ` (${doubt})`);

/** What was heard of the beat; a doubt that holds for both is said once. */
export const beatWords = (bpm: number, doubt: string, first: number, firstDoubt: string): string => {
  const beat = `about ${Math.round(bpm)} a minute`;
  const one = `first beat at ${first.toFixed(2)} s`;
  return doubt === firstDoubt
    ? `${said(doubt)}${beat}, ${one}`
    : `${beat}${behind(doubt)}, ${one}${behind(firstDoubt)}`;
};

/** What workers hear in a recording that has come in, filling itself in as they finish. Nothing waits for it. */
export function FirstLook({ recordingId, onTake }: { recordingId: string; onTake: (taken: Taken) => void }) {
  const [estimates, setEstimates] = useState<readonly Estimate[]>([]);
  useEffect(() => {
    let open = true;
    let again: ReturnType<typeof setTimeout> | undefined;
    const look = () => {
      const path = { recording_id: recordingId };
      fetched(api.POST("/api/recordings/{recording_id}/first-look", { params: { path } })).then(
        (found) => {
          if (!open) return;
          setEstimates(found);
          if (found.some(({ state }) => state === "waiting" || state === "running")) again = setTimeout(look, LOOK_MS);
        },
        () => {
          if (open) again = setTimeout(look, 4 * LOOK_MS);
        },
      );
    };
    look();
    return () => {
      open = false;
      clearTimeout(again);
    };
  }, [recordingId]);
  const of = (kind: Estimate["kind"]) => estimates.find((one) => one.kind === kind);
  return (
    <ul aria-label="What is heard" className="grid gap-1 border-l-4 border-rule-2 pl-3 text-[15px]">
      <Heard label="beat" estimate={of("beats")}>
        {(found) => <Beats found={found} onTake={onTake} />}
      </Heard>
      <Heard label="offset" estimate={of("offset")}>
        {(found) => (
          <Use
            says={found.sentence}
            label={found.cents === 0 ? "Leave it at pitch" : "Tune to it"}
            onUse={() => onTake({ cents: found.cents ?? 0 })}
          />
        )}
      </Heard>
      <Heard label="swing" estimate={of("swing")}>
        {(found) => (
          <Use
            says={found.sentence}
            label="Use the swing"
            onUse={() => onTake({ ratio: found.straight ? null : (found.ratio ?? null) })}
          />
        )}
      </Heard>
      <Heard label="chords" estimate={of("chords")}>
        {(found) => (
          <Use
            says={`${said(found.doubt)}${(found.text ?? "").split("\n")[0] ?? ""} …`}
            label="Use the chords"
            onUse={() => onTake({ chart: found.text ?? "" })}
          />
        )}
      </Heard>
    </ul>
  );
}

function Heard({
  label,
  estimate,
  children,
}: {
  label: string;
  estimate: Estimate | undefined;
  children: (found: Found) => React.ReactNode;
}) {
  const waits = estimate === undefined || estimate.state === "waiting" || estimate.state === "running";
  return (
    <li aria-label={label} className="flex flex-wrap items-center gap-2">
      <span className="w-14 font-bold">{label}</span>
      {waits ? (
        <progress
          aria-label={`Hearing the ${label}`}
          className="h-2 w-32 accent-[var(--ink)]"
          value={estimate?.share}
          max={1}
        />
      ) : estimate.found != null ? (
        children(estimate.found)
      ) : (
        <span className="text-ink-2">{estimate.trouble}</span>
      )}
    </li>
  );
}

function Use({ says, label, onUse }: { says: string; label: string; onUse: () => void }) {
  const [used, setUsed] = useState(false);
  return (
    <>
      <span className="min-w-0 flex-1 truncate" title={says}>
        {says}
      </span>
      <Button
        quiet
        onClick={() => {
          setUsed(true);
          onUse();
        }}
      >
        {used ? `${label} again` : label}
      </Button>
    </>
  );
}

/** The likeliest pace first; any of its first beats may be beat 1. */
function Beats({ found, onTake }: { found: Found; onTake: (taken: Taken) => void }) {
  const [first, setFirst] = useState(0);
  const [used, setUsed] = useState<Pace | null>(null);
  const take = (pace: Pace, at = first) => {
    setUsed(pace);
    const from = found.paces[0]?.beats[at] ?? 0;
    const beats = pace.beats.filter((beat) => beat > from - 0.02);
    onTake({ tempo: pace.bpm, barOneS: beats[0] ?? from, beats });
  };
  const [heard, ...others] = found.paces;
  /** What is in use already moves along: sentence and grid never differ. */
  const next = () => {
    const at = (first + 1) % 8;
    setFirst(at);
    if (used !== null) take(used, at);
  };
  if (heard === undefined) return null;
  return (
    <>
      <span title={found.sentence}>
        {beatWords(heard.bpm, found.doubt, heard.beats[first] ?? 0, found.first_doubt)}
      </span>
      <Button quiet onClick={() => take(heard)}>
        Use it
      </Button>
      <Button quiet onClick={next}>
        Next beat is beat 1
      </Button>
      <Select
        small
        label="Another tempo"
        options={[
          { value: "", words: "another tempo" },
          ...others.map(({ name, bpm }) => ({ value: name, words: `${Math.round(bpm)}, ${name}` })),
        ]}
        value=""
        onChoose={(name) => {
          const pace = others.find((one) => one.name === name);
          if (pace !== undefined) take(pace);
        }}
      />
    </>
  );
}
