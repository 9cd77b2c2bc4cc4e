import type { Schemas } from "@/api/client";
import { drawn } from "@/ui/signs";

type Close = Schemas["CloserView"];

const WIDTH = 620;
const HEIGHT = 142;
const LEFT = 40;
const RIGHT = 20;
const TOP = 16;
const BOTTOM = 26;

/** A finding drawn close: what is written as ink, what is heard behind it; pitch over seconds, frets as lines. */
export function Closer({ close }: { close: Close }) {
  const pitches = [
    ...close.lines.map(({ midi }) => midi),
    ...[...close.written, ...close.heard].map(([, midi]) => midi),
  ];
  const low = Math.min(...pitches) - 0.35;
  const high = Math.max(...pitches) + 0.35;
  const x = (second: number) =>
    LEFT + ((second - close.start_s) / (close.end_s - close.start_s)) * (WIDTH - LEFT - RIGHT);
  const y = (midi: number) => TOP + ((high - midi) / Math.max(0.7, high - low)) * (HEIGHT - TOP - BOTTOM);
  const path = (points: Close["written"]) =>
    points.map(([second, midi], i) => `${i === 0 ? "M" : "L"}${x(second).toFixed(1)} ${y(midi).toFixed(1)}`).join("");
  if (pitches.length === 0) return <p className="py-6 text-ink-2">There is no pitch to draw here.</p>;
  return (
    <svg
      viewBox={`0 0 ${WIDTH} ${HEIGHT}`}
      role="img"
      aria-label={`${close.title}: ${close.says}${close.gap_says === "" ? "" : `, ${close.gap_says}`}`}
      className="block h-auto w-full max-w-[680px]"
    >
      {close.lines.map(({ midi, label }) => (
        <g key={midi}>
          <line x1={LEFT} x2={WIDTH - RIGHT} y1={y(midi)} y2={y(midi)} className="stroke-rule-2" />
          <text x={LEFT - 8} y={y(midi) + 5} textAnchor="end" fontSize={14} className="fill-ink-2">
            {drawn(label)}
          </text>
        </g>
      ))}
      <path data-curve="heard" d={path(close.heard)} fill="none" className="stroke-heard" strokeWidth={2.4} />
      <path
        data-curve="written"
        d={path(close.written)}
        fill="none"
        className="stroke-ink"
        strokeWidth={3.2}
        strokeLinejoin="round"
      />
      {close.gap != null && (
        <g className="stroke-doubt">
          <line x1={x(close.gap[0])} x2={x(close.gap[0])} y1={y(close.gap[1])} y2={y(close.gap[2])} strokeWidth={2.4} />
          <text
            x={x(close.gap[0]) - 8}
            y={(y(close.gap[1]) + y(close.gap[2])) / 2 + 5}
            textAnchor="end"
            fontSize={14}
            stroke="none"
            className="fill-doubt font-bold"
          >
            {close.gap_says}
          </text>
        </g>
      )}
      {[close.onset_written_s, close.onset_heard_s].map((second, i) =>
        second == null ? null : (
          <line
            key={i === 0 ? "written" : "heard"}
            x1={x(second)}
            x2={x(second)}
            y1={TOP - 6}
            y2={HEIGHT - BOTTOM}
            strokeWidth={2}
            strokeDasharray={i === 0 ? undefined : "4 3"}
            className={i === 0 ? "stroke-ink" : "stroke-doubt"}
          />
        ),
      )}
      {[close.start_s, close.end_s].map((second, i) => (
        <text
          key={second}
          x={x(second)}
          y={HEIGHT - 6}
          fontSize={13}
          textAnchor={i === 0 ? "start" : "end"}
          className="fill-ink-2"
        >
          {second.toFixed(2)} s
        </text>
      ))}
    </svg>
  );
}
