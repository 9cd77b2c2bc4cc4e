import type { Schemas } from "@/api/client";
import { useDocument } from "@/score/document";
import type { Tables } from "@/score/types";
import { Strings } from "@/ui/Strings";

type HandMap = Schemas["HandMap"];
type Used = {
  readonly position: number;
  readonly lowest: number;
  readonly highest: number;
  readonly notes: number;
  readonly grips: readonly string[];
};

const WIDTH = 560;
const LEFT = 26;
const ROW = 17; // of brackets above the neck
const FEWEST_FRETS = 12;

/** The positions of a map, each once, with all the grips that it is used for; open strings alone have no place on it. */
export const positionsOf = (map: HandMap): Used[] => {
  const found = new Map<number, Used>();
  for (const { position, lowest, highest, notes, grip } of map.stays) {
    if (lowest === null || highest === null) continue;
    const before = found.get(position);
    const family = grip.split(" ")[0] ?? "";
    found.set(position, {
      position,
      lowest: Math.min(lowest, before?.lowest ?? lowest),
      highest: Math.max(highest, before?.highest ?? highest),
      notes: notes + (before?.notes ?? 0),
      grips: [...new Set([...(before?.grips ?? []), family])].filter((one) => one !== "").sort(),
    });
  }
  return [...found.values()].sort((a, b) => a.position - b.position);
};

/** The row of each bracket, the first in which it touches no other. */
export const rowsOf = (used: readonly Used[]): number[] => {
  const ends: number[] = [];
  return used.map(({ lowest, highest }) => {
    const free = ends.findIndex((end) => end < lowest);
    const row = free < 0 ? ends.length : free;
    ends[row] = Math.max(highest, lowest + 1); // room for the words
    return row;
  });
};

/** The whole neck with the positions that a span uses, their grips, and its notes as dots. */
export function HandMapFigure({ map, tables, flip }: { map: HandMap; tables: Tables; flip: boolean }) {
  const notes = useDocument((state) => state.elements.notes);
  const used = positionsOf(map);
  const rows = rowsOf(used);
  const strings = tables.strings.length;
  const spacing = Math.min(16, 84 / Math.max(1, strings - 1));
  const top = 10 + ROW * Math.max(1, ...rows.map((row) => row + 1));
  const bottom = top + spacing * (strings - 1);
  const count = Math.min(tables.frets, Math.max(FEWEST_FRETS, ...used.map(({ highest }) => highest + 1))) + 1;
  const cell = (WIDTH - LEFT) / count;
  const x = (fret: number) => LEFT + (fret + 0.5) * cell;
  const y = (string: number) => top + spacing * (flip ? strings - string : string - 1);
  const [start, end] = [map.stays[0]?.start ?? 0, Math.max(0, ...map.stays.map((stay) => stay.end))];
  const places = new Set(
    Object.values(notes)
      .filter((note) => note.tick >= start && note.tick < end && note.fret != null)
      .map((note) => `${note.string} ${(note.fret ?? 0) / 100}`),
  );
  return (
    <figure aria-label="The map of the hand" className="max-sm:hidden">
      <figcaption className="text-[14px] text-ink-2">
        {map.sentence}
        {used.some((one) => one.grips.length > 0) ? " Letters: grips." : ""}
      </figcaption>
      <svg width="100%" viewBox={`0 0 ${WIDTH} ${bottom + 24}`} aria-hidden>
        {used.map((one) => (
          <rect
            key={one.position}
            data-position={one.position}
            x={x(one.lowest) - cell / 2}
            y={top - spacing / 2}
            width={(one.highest - one.lowest + 1) * cell}
            height={bottom - top + spacing}
            className="fill-pick/10"
          />
        ))}
        <Strings strings={tables.strings} left={LEFT} right={WIDTH} y={y} />
        {Array.from({ length: count }, (_, fret) => (
          <g key={fret}>
            {fret > 0 && (
              <line
                x1={x(fret) - cell / 2}
                x2={x(fret) - cell / 2}
                y1={top}
                y2={bottom}
                className={fret === 1 ? "stroke-ink" : "stroke-rule-2"}
                strokeWidth={fret === 1 ? 4 : 1.2}
              />
            )}
            <text
              x={x(fret)}
              y={bottom + 21}
              textAnchor="middle"
              fontSize={14}
              fontWeight={tables.inlays.includes(fret) ? 700 : 400}
              className={tables.inlays.includes(fret) ? "fill-ink" : "fill-ink-2"}
            >
              {fret}
            </text>
          </g>
        ))}
        {[...places].map((place) => {
          const [string = 1, fret = 0] = place.split(" ").map(Number);
          return <circle key={place} cx={x(fret)} cy={y(string)} r={5} className="fill-ink" />;
        })}
        {used.map((one, i) => {
          const line = 8 + ROW * (rows[i] ?? 0);
          const letters = one.grips.join(" ");
          const [left, right] = [x(one.lowest) - cell / 2 + 2, x(one.highest) + cell / 2 - 2];
          const after = left + 22 + 10 * String(one.position).length + 9 * letters.length;
          return (
            <g key={one.position}>
              <path
                d={`M${left} ${line + 8}v-8h6${after < right ? `M${after} ${line}H${right}v8` : ""}`}
                fill="none"
                className="stroke-pick"
                strokeWidth={2.4}
              />
              <text x={left + 10} y={line + 6} fontSize={15} fontWeight={700} className="fill-ink">
                {one.position}
                <tspan dx={7} fontSize={14} fontWeight={400}>
                  {letters}
                </tspan>
              </text>
            </g>
          );
        })}
      </svg>
    </figure>
  );
}
