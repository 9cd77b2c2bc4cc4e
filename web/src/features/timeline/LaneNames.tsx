import type { Lanes } from "@/score/layout";
import { stringY } from "@/score/neck";
import type { Tables } from "@/score/types";
import { drawn } from "@/ui/signs";

const WIDE = 60; // where lanes have names

/** The names of the lanes and of the strings; they stay at the left while the strip scrolls. On a phone the letters of the strings alone. */
export function LaneNames({ lanes, tables }: { lanes: Lanes; tables: Tables }) {
  const { margin } = lanes;
  const wide = margin > WIDE;
  const end = wide ? margin - 14 : margin - 8;
  const names: [string, number][] = [
    [lanes.low ? "sections" : "phrases", lanes.phrases + 17],
    ["chords", lanes.chords + 20],
  ];
  if (lanes.soundHeight > 0) names.push(["sound", lanes.sound + lanes.soundHeight / 2 + 5]);
  if (!lanes.low) names.push(["neck", lanes.neck.top - 26], ["degrees", lanes.degrees + 22]);
  if (lanes.paths !== null) names.push(["paths", lanes.paths + 16]);
  if (lanes.feel !== null) names.push(["feel", lanes.feel + 5]);
  return (
    <div className="sticky left-0 z-20 h-full bg-paper" style={{ width: margin }}>
      <svg width={margin} height={lanes.height} aria-hidden className="block">
        {(wide ? names : []).map(([name, y]) => (
          <text key={name} x={end} y={y} textAnchor="end" fontSize={14} className="fill-ink-2">
            {name}
          </text>
        ))}
        {(lanes.low ? [] : tables.strings).map((string) => (
          <g key={string.number}>
            {wide && (
              <text
                x={margin - 42}
                y={stringY(lanes.neck, string.number) + 5}
                textAnchor="end"
                fontSize={13}
                className="fill-ink-3"
              >
                {string.number}
              </text>
            )}
            <text
              x={end}
              y={stringY(lanes.neck, string.number) + 6}
              textAnchor="end"
              fontSize={17}
              fontWeight={700}
              className="fill-ink"
            >
              {drawn(string.name)}
            </text>
          </g>
        ))}
      </svg>
    </div>
  );
}
