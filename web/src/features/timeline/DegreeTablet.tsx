import { memo } from "react";
import { useDocument } from "@/score/document";
import { DEGREE, densityAt, fitting } from "@/score/layout";
import type { Placed } from "@/score/view";
import { drawn } from "@/ui/signs";

/** `stackIndex` of `stackSize` notes that start together, from the thinnest string on; `rows` have room under the first. */
type Props = {
  placed: Placed;
  y: number;
  stackIndex: number;
  stackSize: number;
  rows: number;
  heldX: (tick: number) => number;
};

const HEIGHT = DEGREE.tablet;
const COLUMN = 24; // from one column of a tall stack's degrees to the next

/** Degrees speak by shape: filled, open, plain, or leaning over the bar line; a bend shows start → target. */
export const DegreeTablet = memo(function DegreeTablet({ placed, y, stackIndex, stackSize, rows, heldX }: Props) {
  const { view, x, note, room, gap } = placed;
  const stale = useDocument((state) => state.unanswered.has(note.id));
  const density = densityAt(gap);
  if (view === undefined || view.degrees.length === 0 || density === "numbers" || density === "strokes") return null;
  const tablet = density === "all";
  if (stackIndex > 0)
    return (
      <Stacked
        text={view.degree}
        x={x + COLUMN * Math.floor((stackIndex - 1) / rows)}
        y={y + HEIGHT + DEGREE.line * (1 + ((stackIndex - 1) % rows))}
      />
    );
  const text = drawn(view.degree);
  const width = Math.max(23, 8 + 9.5 * text.length);
  const first = view.degrees.length > 1 && view.degrees[0] !== view.degree ? (view.degrees[0] ?? "") : "";
  const start = room > width + 20 + 7 * first.length ? first : ""; // the target alone where it is tight
  // A bend's target stands beside its start; everything else stands under its number.
  const left = start === "" ? x - width / 2 : x + 9 + 7 * start.length;
  const middle = left + width / 2;
  const filled = view.shape === "chord tone" || view.shape === "anticipation";
  const small = stale ? 14 : view.shape === "key" ? 15 : 18;
  return (
    <g data-note={note.id} opacity={stale ? 0.6 : 1}>
      {start !== "" && (
        <text x={x - 11} y={y + 20} fontSize={14} className="fill-ink-2">
          {drawn(start)}
          <tspan dx={2}>→</tspan>
        </text>
      )}
      {tablet && view.shape === "chord tone" && (
        <rect x={left} y={y} width={width} height={HEIGHT} rx={5} className="fill-ink" />
      )}
      {tablet && view.shape === "anticipation" && (
        <path
          d={`M${left + 5} ${y}H${left + width - 2}L${left + width + 8} ${y + HEIGHT / 2}L${left + width - 2} ${y + HEIGHT}H${left + 5}Q${left} ${y + HEIGHT} ${left} ${y + HEIGHT - 5}V${y + 5}Q${left} ${y} ${left + 5} ${y}Z`}
          className="fill-ink"
        />
      )}
      {tablet && view.shape === "tension" && (
        <rect
          x={left + 1}
          y={y + 1}
          width={width - 2}
          height={HEIGHT - 2}
          rx={5}
          className="fill-none stroke-ink"
          strokeWidth={2}
        />
      )}
      <text
        x={middle}
        y={y + 20}
        textAnchor="middle"
        fontSize={small}
        fontWeight={700}
        className={tablet && filled ? "fill-paper" : view.shape === "key" ? "fill-ink-3" : "fill-ink"}
      >
        {text}
      </text>
      {view.blue && (
        <path d={wave(left, left + width, y + HEIGHT + 4)} fill="none" className="stroke-ink" strokeWidth={1.6} />
      )}
      {stale && (
        <line
          x1={left}
          x2={left + width}
          y1={y + HEIGHT + 4}
          y2={y + HEIGHT + 4}
          className="stroke-ink-3"
          strokeWidth={2}
          strokeDasharray="2 3"
        />
      )}
      {tablet && stackSize === 1 && view.name !== "" && fitting(view.name.length, room + 8, [13]) !== null && (
        <text
          x={start === "" ? middle : (x + middle) / 2}
          y={y + HEIGHT + 19}
          textAnchor="middle"
          fontSize={13}
          className="fill-ink-2"
        >
          {drawn(view.name)}
        </text>
      )}
      {view.other !== "" && (
        <text x={x} y={y + HEIGHT + (tablet ? 35 : 19)} textAnchor="middle" fontSize={13} className="fill-ink-2">
          {drawn(view.other)}
        </text>
      )}
      {view.held.map((held) => (
        <text
          key={held.tick}
          x={heldX(held.tick) + 12}
          y={y + 19}
          textAnchor="middle"
          fontSize={14}
          className="fill-ink-2"
        >
          {drawn(held.degree)}
        </text>
      ))}
    </g>
  );
});

function Stacked({ text, x, y }: { text: string; x: number; y: number }) {
  return (
    <text x={x} y={y} textAnchor="middle" fontSize={15} fontWeight={700} className="fill-ink">
      {drawn(text)}
    </text>
  );
}

const wave = (from: number, to: number, y: number): string => {
  let path = `M${from} ${y}`;
  for (let x = from; x < to - 2; x += 6) path += `q1.5 -3 3 0t3 0`;
  return path;
};
