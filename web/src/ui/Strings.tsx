import { drawn } from "./signs";

type Props = {
  readonly strings: readonly { readonly number: number; readonly name: string }[];
  readonly left: number;
  readonly right: number;
  readonly y: (string: number) => number;
};

/** The strings of a neck that is seen from above, thicker towards the low ones, with their names at the left. */
export function Strings({ strings, left, right, y }: Props) {
  return strings.map((string) => (
    <g key={string.number}>
      <text x={left - 12} y={y(string.number) + 5} textAnchor="end" fontSize={15} className="fill-ink-2">
        {drawn(string.name)}
      </text>
      <line
        x1={left}
        x2={right}
        y1={y(string.number)}
        y2={y(string.number)}
        className="stroke-ink-3"
        strokeWidth={0.8 + (string.number - 1) * 0.28}
      />
    </g>
  ));
}
