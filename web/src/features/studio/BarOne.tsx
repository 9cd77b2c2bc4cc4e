import { useEffect, useRef, useState } from "react";
import type { Schemas } from "@/api/client";
import { latest } from "@/api/latest";
import { loadPeaks, ridge } from "@/score/peaks";
import { Button } from "@/ui/parts";

type Props = { recording: Schemas["Recording"]; second: number; onChange: (second: number) => void };

const HEIGHT = 64;
const SPAN_S = 12; // seconds in view
const NUDGE_S = 0.005;

/** Where bar 1 starts: by a click on the sound, nudged by 5 ms, proved by ear. */
export function BarOne({ recording, second, onChange }: Props) {
  const [from, setFrom] = useState(0);
  const [path, setPath] = useState("");
  const box = useRef<SVGSVGElement>(null);
  const audio = useRef<HTMLAudioElement>(null);
  const width = 900;
  useEffect(
    () => latest(loadPeaks(recording.id, 1), (peaks) => setPath(ridge(peaks, from, from + SPAN_S, width, HEIGHT))),
    [recording.id, from],
  );
  const place = (value: number) => onChange(Math.min(recording.seconds, Math.max(0, Math.round(value * 1000) / 1000)));
  const hear = () => {
    if (audio.current === null) return;
    audio.current.volume = 0.3;
    audio.current.src = `/api/recordings/${recording.id}/moment?second=${second}`;
    void audio.current.play();
  };
  const x = ((second - from) / SPAN_S) * width;
  return (
    <section aria-label="Where bar 1 starts">
      <div className="mb-1 flex flex-wrap items-center gap-3">
        <h3 className="font-bold text-ink-2">Bar 1 starts at</h3>
        <output className="text-[18px] font-bold" aria-label="Bar 1 in seconds">
          {second.toFixed(3)} s
        </output>
        <Button onClick={() => place(second - NUDGE_S)} aria-label="5 ms earlier">
          − 5 ms
        </Button>
        <Button onClick={() => place(second + NUDGE_S)} aria-label="5 ms later">
          + 5 ms
        </Button>
        <Button onClick={hear}>Hear it</Button>
        <span className="ml-auto flex gap-2">
          <Button quiet disabled={from <= 0} onClick={() => setFrom(Math.max(0, from - SPAN_S / 2))}>
            earlier
          </Button>
          <Button quiet disabled={from + SPAN_S >= recording.seconds} onClick={() => setFrom(from + SPAN_S / 2)}>
            later
          </Button>
        </span>
      </div>
      <svg
        ref={box}
        viewBox={`0 0 ${width} ${HEIGHT}`}
        className="w-full cursor-crosshair border border-rule bg-sheet"
        role="img"
        aria-label="The sound: click where bar 1 starts"
        onClick={(event) => {
          const area = box.current?.getBoundingClientRect();
          if (area !== undefined) place(from + ((event.clientX - area.left) / area.width) * SPAN_S);
        }}
      >
        <path d={path} className="fill-tint" />
        {x >= 0 && x <= width && <line x1={x} x2={x} y1={0} y2={HEIGHT} className="stroke-sound" strokeWidth={2} />}
      </svg>
      <p className="text-[13px] text-ink-3">
        Click on the first beat of bar 1, then nudge. A pick-up before it is written in the chart as {"{pick-up 1}"}.
      </p>
      <audio ref={audio} aria-label="The sound at bar 1" />
    </section>
  );
}
