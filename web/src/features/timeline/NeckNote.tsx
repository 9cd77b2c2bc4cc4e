import { memo } from "react";
import type { Density } from "@/score/layout";
import { bendLabel, bowPath, fallPath, leanPath, type NeckGrid, stringY, strokePath, teethPath } from "@/score/neck";
import type { Placed } from "@/score/view";

type Props = { placed: Placed; neck: NeckGrid; pxPerS: number; density: Density };

const PICKS = { down: "n", up: "v", sweep: "»", finger: "p" } as const;

const numberOf = (placed: Placed): string => {
  const { note } = placed;
  if (note.dead) return "×";
  if (note.fret == null) return "?";
  return String(Math.round(note.fret) / 100);
};

/** A note inks its string: its number, and a stroke that does what the string does. */
export const NeckNote = memo(function NeckNote({ placed, neck, pxPerS, density }: Props) {
  const { note, view, x, endX, before } = placed;
  const y = stringY(neck, note.string);
  const numbered = density !== "strokes";
  const text = numberOf(placed);
  const half = text.length > 1 ? 12 : 8;
  const unsure = note.sure !== "sure";
  const weight = note.ghost ? 1.6 : 3.4;
  const rising = before?.fret != null && note.fret != null && before.fret < note.fret;
  const cut = note.ending?.kind === "choked" || note.ending?.kind === "staccato";
  return (
    <g data-note={note.id}>
      <path
        d={strokePath(note, { x, endX }, y, pxPerS, numbered)}
        fill="none"
        className="stroke stroke-ink"
        strokeWidth={weight}
        strokeLinecap="round"
        strokeLinejoin="round"
        strokeDasharray={note.ending?.kind === "let ring" ? "9 5" : undefined}
      />
      {(note.attack.kind === "hammer-on" || note.attack.kind === "pull-off") && before !== null && numbered && (
        <path d={bowPath(before.x + 2, x - 2, y)} fill="none" className="stroke-ink" strokeWidth={1.7} />
      )}
      {note.attack.kind === "slide" && (
        <path d={leanPath(x, y, rising)} className="stroke stroke-ink" strokeWidth={3} strokeLinecap="round" />
      )}
      {note.attack.kind === "slide-in" && (
        <path
          d={leanPath(
            x,
            y,
            note.attack.start !== "far above" &&
              !(typeof note.attack.start === "number" && note.attack.start > (note.fret ?? 0)),
          )}
          className="stroke stroke-ink"
          strokeWidth={3}
          strokeLinecap="round"
        />
      )}
      {note.ending?.kind === "slide-off" && (
        <path
          d={fallPath(endX, y, note.ending.to === "far up")}
          className="stroke stroke-ink"
          strokeWidth={3}
          strokeLinecap="round"
        />
      )}
      {cut && endX - x > 20 && (
        <line x1={endX - 3} x2={endX - 3} y1={y - 6} y2={y + 6} className="stroke-ink" strokeWidth={2.4} />
      )}
      {numbered && (
        <>
          {!note.dead && <rect x={x - half - 1} y={y - 10} width={2 * half + 2} height={20} className="fill-paper" />}
          <text
            x={x}
            y={y + 8}
            textAnchor="middle"
            fontSize={note.ghost ? 18 : 22}
            fontWeight={note.ghost ? 400 : 700}
            className="number fill-ink"
          >
            {note.ghost ? `(${text})` : text}
          </text>
          {note.attack.kind === "tapped" && <path d={`M${x} ${y - 13}l-5 -8h10z`} className="fill-ink" />}
          {note.palm_mute && (
            <path
              d={`M${x + half + 3} ${y + 12}H${Math.max(x + half + 9, endX - 6)}`}
              className="stroke-ink"
              strokeWidth={4}
              strokeDasharray="2 3"
            />
          )}
          {note.trill != null && (
            <>
              <path
                d={teethPath(x + half + 2, Math.max(x + half + 14, endX - 4), y - 11, 6)}
                fill="none"
                className="stroke-ink"
                strokeWidth={1.7}
              />
              <text x={x + half + 4} y={y - 18} fontSize={14} className="fill-ink">
                {note.trill.fret / 100}
              </text>
            </>
          )}
          {note.tremolo != null &&
            [0, 1, 2].map((bar) => (
              <line
                key={bar}
                x1={x + half + 6 + 5 * bar}
                x2={x + half + 11 + 5 * bar}
                y1={y + 7}
                y2={y - 7}
                className="stroke-ink"
                strokeWidth={2.2}
              />
            ))}
          {note.rake?.strings.map((string, i, all) => (
            <text
              key={string}
              x={x - 12 - 9 * (all.length - i)}
              y={stringY(neck, string) + 6}
              textAnchor="middle"
              fontSize={17}
              fontWeight={700}
              className="fill-ink-2"
            >
              ×
            </text>
          ))}
          {note.vibrato?.by === "bar" && (
            <path d={`M${x + half + 4} ${y + 13}h12l3 -4`} fill="none" className="stroke-ink" strokeWidth={2} />
          )}
          {note.finger != null && (
            <text
              x={x - half - 5}
              y={y - 9}
              textAnchor="middle"
              fontSize={13}
              fontStyle="italic"
              className="fill-ink-2"
            >
              {note.finger}
            </text>
          )}
          {note.pick != null && (
            <text x={x} y={y + 22} textAnchor="middle" fontSize={13} className="fill-ink-2">
              {PICKS[note.pick]}
            </text>
          )}
          {note.accent && (
            <text x={x} y={y - 13} textAnchor="middle" fontSize={15} fontWeight={700} className="fill-ink">
              ›
            </text>
          )}
          {note.attack.kind === "harmonic" && (
            <path
              d={`M${x - half - 5} ${y}l5 -9M${x - half - 5} ${y}l5 9M${x + half + 5} ${y}l-5 -9M${x + half + 5} ${y}l-5 9`}
              className="stroke-ink"
              strokeWidth={1.6}
            />
          )}
        </>
      )}
      {numbered &&
        view?.bends.map((bend) => {
          const place = bendLabel(note, { x, endX }, y, bend);
          const same = note.course.some(
            ([at, quarters], i, all) => at === bend.at && i > 0 && (all[i - 1]?.[1] ?? 0) > quarters,
          );
          return same ? null : (
            <text
              key={bend.at}
              x={place.x}
              y={place.y}
              textAnchor="middle"
              fontSize={15}
              fontWeight={700}
              className="fill-ink"
            >
              {bend.size}
            </text>
          );
        })}
      {unsure && (
        <>
          <line
            x1={x - 16}
            x2={Math.max(x + 16, endX - 3)}
            y1={y + 16}
            y2={y + 16}
            className="stroke-doubt"
            strokeWidth={2.6}
            strokeDasharray="5 3"
          />
          {numbered && (
            <text x={x + half + 6} y={y - 8} fontSize={18} fontWeight={700} className="fill-doubt">
              ?
            </text>
          )}
        </>
      )}
    </g>
  );
});
