import { memo } from "react";
import { useDocument } from "@/score/document";
import { cellOf, inCell, layDegree } from "@/score/degrees";
import { DEGREE, fitting } from "@/score/layout";
import type { Placed } from "@/score/view";
import { drawn } from "@/ui/signs";

/** `stackIndex` of `stackSize` notes that start together, from the thinnest string on; `rows` have room under the first. */
type Props = {
  placed: Placed;
  y: number;
  stackIndex: number;
  stackSize: number;
  rows: number;
  /** Whether the name of the note stands under its degree. */
  named?: boolean;
  heldX: (tick: number) => number;
};

const HEIGHT = DEGREE.tablet;
const HALF_TABLET = 11;
const LEADING: ReadonlySet<string> = new Set(["approach", "enclosure", "passing"]); // a tick points at the goal
const COLUMN = 24; // from one column of a tall stack's degrees to the next

/** Degrees speak by shape: filled, open, plain, or leaning over the bar line; a bend shows start → target. */
export const DegreeTablet = memo(function DegreeTablet({
  placed,
  y,
  stackIndex,
  stackSize,
  rows,
  named: names = true,
  heldX,
}: Props) {
  const { view, x, note, lead, room, gap } = placed;
  const stale = useDocument((state) => state.unanswered.has(note.id));
  if (view === undefined || view.degrees.length === 0) return null;
  const cell = cellOf(lead, room);
  const text = drawn(view.degree);
  const [bentFrom] = view.degrees;
  const laid = layDegree(
    {
      text,
      start: view.degrees.length > 1 && bentFrom !== undefined && bentFrom !== view.degree ? drawn(bentFrom) : "",
      pointed: view.shape === "anticipation",
      sizes: stale ? [14, 13] : view.shape === "key" ? [15, 13] : [18, 15, 13],
    },
    cell,
    gap,
  );
  if (laid === null) return null;
  if (stackIndex > 0)
    return (
      <Stacked
        text={view.degree}
        x={x + COLUMN * Math.floor((stackIndex - 1) / rows)}
        y={y + HEIGHT + DEGREE.line * (1 + ((stackIndex - 1) % rows))}
      />
    );
  const { tablet, start, width } = laid;
  const left = x + laid.left;
  const middle = left + width / 2;
  const filled = view.shape === "chord tone" || view.shape === "anticipation";
  const nameX = start === "" ? middle : (x + middle) / 2;
  const named = names && tablet && stackSize === 1 && view.name !== "" && inCell(cell, nameX - x, view.name.length, 13);
  return (
    <g data-note={note.id} opacity={stale ? 0.6 : 1}>
      {start !== "" && (
        <text x={x - 11} y={y + 20} fontSize={14} className="fill-ink-2">
          {start}
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
      {tablet && LEADING.has(view.shape) && (
        <path
          data-leads={view.shape}
          d={`M${left + 1} ${y + HEIGHT - 1}H${left + width - 7}l6 -6`}
          fill="none"
          className="stroke-ink"
          strokeWidth={1.8}
        />
      )}
      {tablet && view.shape === "pedal" && (
        <line
          x1={left + 2}
          x2={left + width - 2}
          y1={y + HEIGHT - 1}
          y2={y + HEIGHT - 1}
          className="stroke-ink"
          strokeWidth={2.6}
        />
      )}
      {tablet && (view.shape === "tension" || view.shape === "outside") && (
        <rect
          x={left + 1}
          y={y + 1}
          width={width - 2}
          height={HEIGHT - 2}
          rx={5}
          className="fill-none stroke-ink"
          strokeWidth={view.shape === "outside" ? 1.6 : 2}
          strokeDasharray={view.shape === "outside" ? "4 3" : undefined}
        />
      )}
      <text
        x={middle}
        y={y + 20}
        textAnchor="middle"
        fontSize={laid.size}
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
      {named && (
        <text x={nameX} y={y + HEIGHT + 19} textAnchor="middle" fontSize={13} className="fill-ink-2">
          {drawn(view.name)}
        </text>
      )}
      {view.other !== "" && fitting(view.other.length, room - HALF_TABLET, [13]) !== null && (
        <text x={x - HALF_TABLET} y={y + HEIGHT + (tablet ? 35 : 19)} fontSize={13} className="fill-ink-2">
          {drawn(view.other)}
        </text>
      )}
      {view.held
        .filter(({ tick }) => heldX(tick) > left + width && inCell(cell, heldX(tick) + 12 - x, 2, 14))
        .map((held) => (
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
