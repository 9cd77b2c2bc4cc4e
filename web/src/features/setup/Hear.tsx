import { type ReactNode, useEffect, useRef, useState } from "react";
import { api, type Schemas, sentence, take } from "@/api/client";
import { Button } from "@/ui/parts";
import { Select } from "@/ui/Select";

type Kind = Schemas["EstimateRequest"]["kind"];
export type Found = Schemas["Found"];
const LOOK_MS = 300;

/** Something that a worker hears in the recording: asked for, with how far it is; left or, when it is found, taken only when asked. */
export function Hear({
  label,
  kind,
  soloId,
  firstBar = 0,
  lastBar = 10_000,
  withOffset = true,
  children,
}: {
  label: string;
  kind: Kind;
  soloId: string;
  firstBar?: number;
  lastBar?: number;
  withOffset?: boolean;
  children: (found: Found, done: () => void) => ReactNode;
}) {
  const [estimate, setEstimate] = useState<Schemas["Estimate"] | null>(null);
  const [message, setMessage] = useState("");
  const running = useRef<string | null>(null);
  const leave = () => {
    const id = running.current;
    running.current = null;
    if (id !== null) void api.DELETE("/api/estimates/{estimate_id}", { params: { path: { estimate_id: id } } });
  };
  useEffect(() => leave, []);
  const waits = estimate !== null && (estimate.state === "waiting" || estimate.state === "running");
  const id = estimate?.id;
  useEffect(() => {
    if (!waits || id === undefined) return undefined;
    const look = setInterval(() => {
      take(api.GET("/api/estimates/{estimate_id}", { params: { path: { estimate_id: id } } })).then(
        (now) => {
          if (running.current !== id) return;
          if (now.state !== "waiting" && now.state !== "running") running.current = null;
          setEstimate(now);
          setMessage(now.found?.sentence ?? now.trouble);
        },
        (fault: unknown) => setMessage(sentence(fault)),
      );
    }, LOOK_MS);
    return () => clearInterval(look);
  }, [waits, id]);
  const ask = () => {
    leave();
    setMessage("");
    take(
      api.POST("/api/solos/{solo_id}/estimates", {
        params: { path: { solo_id: soloId } },
        body: { kind, first_bar: firstBar, last_bar: lastBar, with_offset: withOffset },
      }),
    ).then(
      (asked) => {
        running.current = asked.id;
        setEstimate(asked);
      },
      (fault: unknown) => setMessage(sentence(fault)),
    );
  };
  const found = estimate?.state === "done" ? estimate.found : null;
  return (
    <div className="flex min-w-0 flex-wrap items-center gap-3">
      {waits ? (
        <>
          <progress aria-label={label} value={estimate.share} className="h-3 w-40 accent-[var(--ink)]" />
          <span className="text-[14px] text-ink-2">
            {estimate.state === "waiting" ? "waiting for a worker" : `heard to ${Math.round(estimate.share * 100)} %`}
          </span>
          <Button
            quiet
            onClick={() => {
              leave();
              setEstimate(null);
              setMessage("Left.");
            }}
          >
            Cancel
          </Button>
        </>
      ) : (
        <Button onClick={ask}>{label}</Button>
      )}
      {found != null && children(found, () => setEstimate(null))}
      <p role="status" aria-label={`${label}: what was heard`} className="w-full text-[14px] empty:hidden">
        {message}
      </p>
    </div>
  );
}

/** The beats that were heard: at one of the paces, the likeliest first, with the first of a bar moved where it belongs. */
export function BeatsHeard({ found, onLay }: { found: Found; onLay: (beats: readonly number[]) => void }) {
  const [first, setFirst] = useState(1);
  const begin = found.paces[0]?.beats[first - 1] ?? 0;
  return (
    <>
      <span className="flex items-center gap-2 text-[14px]">
        <span aria-hidden>bar 1 begins on beat</span>
        <Select
          small
          label="bar 1 begins on beat"
          options={[1, 2, 3, 4, 5, 6, 7, 8].map((beat) => ({
            value: String(beat),
            words: `${beat} · ${clock(found.paces[0]?.beats[beat - 1])}`,
          }))}
          value={String(first)}
          onChoose={(value) => setFirst(Number(value))}
        />
      </span>
      {found.paces.map((pace, i) => (
        <Button
          key={pace.name}
          strong={i === 0}
          title={pace.name}
          onClick={() => onLay(pace.beats.filter((beat) => beat > begin - NEAR_S))}
        >
          {Math.round(pace.bpm)} a minute{i === 0 ? "" : `, ${pace.name}`}
        </Button>
      ))}
    </>
  );
}

const NEAR_S = 0.02; // beats of two paces that are the same
const clock = (second: number | undefined): string => (second === undefined ? "–" : `${second.toFixed(2)} s`);
