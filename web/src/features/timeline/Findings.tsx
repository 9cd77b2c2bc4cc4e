import { type Axis, toPx } from "@/score/axis";
import { useChecking } from "@/score/checking";
import type { Lanes } from "@/score/layout";
import { stringY } from "@/score/neck";
import { useShown } from "@/score/shown";
import type { Placed } from "@/score/view";

type Props = {
  readonly x: (tick: number) => number;
  readonly near: (left: number, right: number) => boolean;
  readonly axis: Axis;
  readonly lanes: Lanes;
};

/** While the check is open: what was heard as wash behind the ink. */
export function HeardWash({ near, axis, lanes }: Omit<Props, "x">) {
  const shown = useShown((state) => state.stage === "check");
  const heard = useChecking((state) => state.check?.heard);
  if (!shown) return null;
  return heard
    ?.filter(({ second, end_second }) => near(toPx(axis, second), toPx(axis, end_second)))
    .map(({ string, second, end_second }) => (
      <rect
        key={`${string} ${second}`}
        data-heard={string}
        x={toPx(axis, second) - 11}
        y={stringY(lanes.neck, string) - 12}
        width={Math.max(12, toPx(axis, end_second) - toPx(axis, second) + 8)}
        height={24}
        rx={5}
        className="fill-tint"
      />
    ));
}

/** What does not agree, round its note or at its place; the finding in hand has a blue edge. */
export function FindingEdges({ x, near, lanes, notes }: Omit<Props, "axis"> & { notes: readonly Placed[] }) {
  const shown = useShown((state) => state.stage === "check");
  const findings = useChecking((state) => state.check?.findings);
  const chosen = useChecking((state) => state.chosen);
  if (!shown) return null;
  return findings
    ?.filter(({ tick, end }) => near(x(tick), x(end)))
    .map((finding) => {
      const inHand = finding.id === chosen;
      const dress = `fill-none ${inHand ? "stroke-pick" : "stroke-doubt"}`;
      const last = finding.notes[finding.notes.length - 1];
      const placed = notes.find(({ note }) => note.id === last);
      if (last !== undefined && placed === undefined) return null; // its note is drawn by another part of the strip
      if (placed === undefined) {
        const y = lanes.neck.top - 18;
        return (
          <path
            key={finding.id}
            data-finding={finding.kind}
            d={`M${x(finding.tick)} ${y + 7}v-7H${Math.max(x(finding.tick) + 10, x(finding.end))}v7`}
            strokeWidth={inHand ? 3 : 2}
            className={dress}
          />
        );
      }
      return (
        <rect
          key={finding.id}
          data-finding={finding.kind}
          x={placed.x - 17}
          y={stringY(lanes.neck, placed.note.string) - 17}
          width={34}
          height={34}
          rx={5}
          strokeWidth={inHand ? 3 : 2.2}
          strokeDasharray={inHand ? undefined : "5 4"}
          className={dress}
        />
      );
    });
}
