import { memo } from "react";
import { layDegree } from "@/score/degrees";
import { type Drawing, FIGURE, type LaidNote, layFigure, wideEnough } from "@/score/lickFigure";
import { bowPath, leanPath, stringWidth } from "@/score/neck";
import { drawn } from "@/ui/signs";

const LEADING: ReadonlySet<string> = new Set(["approach", "enclosure", "passing"]);
const FILLED: ReadonlySet<string> = new Set(["chord tone", "anticipation"]);
const BEND_UP = 13; // pixels that a bend lifts its stroke
const SIZES = [16, 14, 13] as const;

type Props = {
  drawing: Drawing;
  /** The room for it; what needs more is drawn smaller, or scrolls in it. */
  width: number;
  scrolls?: boolean;
  /** How much larger everything is drawn. */
  scale?: number;
  /** Notes that are drawn pale: those that a part leaves out. */
  pale?: (one: LaidNote["one"]) => boolean;
};

/** A lick drawn whole: its chords, the numbers on the strings, its degrees by shape. What the search named stands out. */
export const LickFigure = memo(function LickFigure({ drawing, width: room, scrolls, scale = 1, pale }: Props) {
  const width = wideEnough(drawing, room / scale, scrolls === true);
  const strings = drawing.strings.length;
  const laid = layFigure(drawing, { width, strings });
  const searched = drawing.notes.some(({ hit }) => hit);
  const said = drawing.notes.map(({ degrees, fret }) => degrees[degrees.length - 1] ?? fret).join(" ");
  return (
    <svg
      role="img"
      aria-label={drawn(said)}
      width={width * scale}
      height={laid.height * scale}
      viewBox={`0 0 ${width} ${laid.height}`}
      className={scrolls === true ? "max-w-none" : "h-auto max-w-full"}
    >
      {drawing.strings.map((_, i) => (
        <line
          key={i}
          x1={2}
          x2={width - 2}
          y1={laid.top + laid.spacing * i}
          y2={laid.top + laid.spacing * i}
          className="stroke-rule-2"
          strokeWidth={stringWidth(i + 1, strings) * 0.8}
        />
      ))}
      {laid.bars.map((bar) => (
        <line
          key={bar.label}
          x1={bar.x}
          x2={bar.x}
          y1={6}
          y2={laid.degrees + FIGURE.tablet}
          className="stroke-rule-2"
          strokeWidth={1.6}
        />
      ))}
      {laid.chords.map(
        (chord) =>
          chord.size > 0 && (
            <text
              key={chord.x}
              x={chord.x}
              y={FIGURE.chords}
              fontSize={chord.size}
              fontWeight={700}
              className="fill-ink"
            >
              {drawn(chord.shown)}
            </text>
          ),
      )}
      {laid.notes.map((note) => (
        <g
          key={note.one.note.id}
          data-note={note.one.note.id}
          data-hit={note.one.hit}
          opacity={pale?.(note.one) === true ? 0.25 : 1}
        >
          <OnString laid={note} />
          <Degree laid={note} y={laid.degrees} dim={searched && !note.one.hit} />
        </g>
      ))}
    </svg>
  );
});

/** The number, and a stroke for what goes on: held, bent, let down, slid, joined. */
function OnString({ laid }: { laid: LaidNote }) {
  const { one, x, endX, y, room } = laid;
  const { note } = one;
  const half = 4 + 4.5 * one.fret.length;
  const end = Math.max(x + half, Math.min(endX, x + room) - 5);
  const bend = one.bends[0];
  const top = y - BEND_UP;
  const kind = note.attack.kind;
  return (
    <>
      {!note.dead && end > x + half + 4 && (
        <path
          d={
            bend === undefined || bend.quarters < 0
              ? `M${x + half} ${y}H${end}`
              : `M${x + half} ${y}Q${x + half + 7} ${y} ${x + half + 9} ${top + 3}${released(laid) ? `L${end} ${y}` : `H${Math.max(end, x + half + 12)}`}`
          }
          fill="none"
          className="stroke-ink"
          strokeWidth={note.ghost ? 1.2 : 2.2}
          strokeDasharray={note.vibrato == null ? undefined : "3 2"}
        />
      )}
      {bend !== undefined && (
        <text x={x + half + 6} y={top} fontSize={13} fontWeight={700} className="fill-ink">
          {bend.size}
        </text>
      )}
      {(kind === "hammer-on" || kind === "pull-off") && laid.joinedFrom !== null && (
        <path d={bowPath(laid.joinedFrom + 2, x - 2, y + 6)} fill="none" className="stroke-ink" strokeWidth={1.3} />
      )}
      {(kind === "slide" || kind === "slide-in") && (
        <path
          d={leanPath(x - 4.5 * (one.fret.length - 1), y, true)}
          className="stroke-ink"
          strokeWidth={2}
          strokeLinecap="round"
        />
      )}
      <text
        x={x}
        y={y + 5.5}
        fontSize={15.5}
        fontWeight={700}
        textAnchor="middle"
        className={note.ghost ? "fill-ink-2 stroke-paper" : "fill-ink stroke-paper"}
        strokeWidth={4}
        paintOrder="stroke"
      >
        {one.fret}
      </text>
    </>
  );
}

const released = ({ one }: LaidNote): boolean => {
  const last = one.note.course[one.note.course.length - 1];
  return last !== undefined && last[1] === 0;
};

function Degree({ laid, y, dim }: { laid: LaidNote; y: number; dim: boolean }) {
  const { one, x, lead, room, row, onset } = laid;
  const text = drawn(one.degrees[one.degrees.length - 1] ?? "");
  if (text === "") return null;
  if (row > 0)
    return (
      <text
        x={x}
        y={y + FIGURE.tablet + 15 + 17 * (row - 1)}
        fontSize={14}
        fontWeight={700}
        textAnchor="middle"
        className="fill-ink-2"
      >
        {text}
      </text>
    );
  const half = Math.min(lead, room) / 2 - 1;
  const degree = layDegree(
    { text, start: "", pointed: one.shape === "anticipation", sizes: SIZES },
    { left: Math.min(20, Math.max(lead / 2, lead - 20)) - 1.5, right: Math.max(half, room / 2 - 1.5) },
    Math.min(lead, room),
  );
  if (degree === null)
    return (
      <text
        x={x}
        y={y + 13 + 15 * (onset % 2)}
        fontSize={13}
        fontWeight={700}
        textAnchor="middle"
        className="fill-ink"
        opacity={dim ? 0.55 : 1}
      >
        {text}
      </text>
    );
  const left = x + degree.left;
  const filled = degree.tablet && FILLED.has(one.shape);
  const height = FIGURE.tablet;
  return (
    <g opacity={dim ? 0.55 : 1}>
      {degree.tablet && one.shape === "chord tone" && (
        <rect x={left} y={y} width={degree.width} height={height} rx={4} className="fill-ink" />
      )}
      {degree.tablet && one.shape === "anticipation" && (
        <path
          d={`M${left} ${y}h${degree.width - 2}l8 ${height / 2}l-8 ${height / 2}h${2 - degree.width}z`}
          className="fill-ink"
        />
      )}
      {degree.tablet && (one.shape === "tension" || one.shape === "outside") && (
        <rect
          x={left + 1}
          y={y + 1}
          width={degree.width - 2}
          height={height - 2}
          rx={4}
          className="fill-none stroke-ink"
          strokeWidth={1.7}
          strokeDasharray={one.shape === "outside" ? "4 3" : undefined}
        />
      )}
      {degree.tablet && LEADING.has(one.shape) && (
        <path
          d={`M${left + 1} ${y + height - 1}h${degree.width - 8}l6 -6`}
          fill="none"
          className="stroke-ink"
          strokeWidth={1.6}
        />
      )}
      <text
        x={left + degree.width / 2}
        y={y + 17.5}
        fontSize={degree.size}
        fontWeight={700}
        textAnchor="middle"
        className={filled ? "fill-paper" : one.shape === "key" ? "fill-ink-3" : "fill-ink"}
      >
        {text}
      </text>
    </g>
  );
}
