import type { Schemas } from "@/api/client";

const WIDTH = 9;
const HEIGHT = 23;

/** A solo at a glance: a mark a bar, in fours, filled as far as it is written, a doubt under it. */
export function Miniature({ bars }: { bars: Schemas["BarMiniature"][] }) {
  const shown = bars.slice(0, 48);
  const x = (i: number) => i * (WIDTH + 1) + Math.floor(i / 4) * 6;
  const words = `${shown.filter((bar) => bar.filled >= 1).length} bars full, ${shown.filter((bar) => bar.filled > 0 && bar.filled < 1).length} begun, ${shown.filter((bar) => bar.doubtful).length} doubtful`;
  return (
    <svg
      width={x(shown.length) + 2}
      height={34}
      viewBox={`0 0 ${x(shown.length) + 2} 34`}
      role="img"
      aria-label={words}
      className="h-auto max-w-full"
    >
      {shown.map((bar, i) => (
        <g key={bar.bar} data-bar={bar.bar} data-fill={bar.filled >= 1 ? "full" : bar.filled > 0 ? "part" : "empty"}>
          <rect x={x(i) + 0.5} y={2.5} width={WIDTH - 1} height={HEIGHT} className="fill-none stroke-rule-2" />
          {bar.filled > 0 && (
            <rect
              x={x(i)}
              y={2 + (HEIGHT + 1) * (1 - bar.filled)}
              width={WIDTH}
              height={(HEIGHT + 1) * bar.filled}
              className="fill-ink"
            />
          )}
          {bar.doubtful && <rect x={x(i)} y={29} width={WIDTH} height={4} className="fill-doubt" />}
        </g>
      ))}
    </svg>
  );
}
