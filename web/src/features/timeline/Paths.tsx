import { useMemo } from "react";
import { useAnalysing } from "@/score/analysis";
import { type LaidPath, pathsOn } from "@/score/paths";
import type { Axis } from "@/score/axis";
import { useDocument } from "@/score/document";
import type { Lanes } from "@/score/layout";
import { PATH } from "@/score/layout";
import type { Placed } from "@/score/view";
import { drawn } from "@/ui/signs";

type Props = {
  readonly axis: Axis;
  readonly near: (left: number, right: number) => boolean;
  readonly lanes: Lanes;
};

/** Where notes lead: brackets to their goal, arcs over a change of chord, with words. */
export function Paths({ axis, near, lanes }: Props) {
  const paths = useAnalysing((state) => state.read?.paths);
  const grid = useDocument((state) => state.grid);
  if (lanes.paths === null || paths === undefined) return null;
  const top = lanes.paths;
  return pathsOn(paths, axis, grid, PATH.rows)
    .filter((one) => near(one.x, Math.max(one.endX, one.x + 180)))
    .map((one) => <PathMark key={`${one.path.kind} ${one.path.tick} ${one.path.end}`} laid={one} top={top} />);
}

function PathMark({ laid, top }: { laid: LaidPath; top: number }) {
  const { path, x, endX, row, said } = laid;
  const y = top + row * PATH.row;
  const across = path.kind === "guide-tone move" || path.kind === "common tone" || path.kind === "half-step shift";
  if (path.kind === "motif" && !said) return null;
  const dress = across ? "fill-pick" : "fill-ink-2";
  return (
    <g data-path={path.kind}>
      {across ? (
        <>
          <path
            d={`M${x} ${y}Q${(x + endX) / 2} ${y + 16} ${endX} ${y}`}
            fill="none"
            className="stroke-pick"
            strokeWidth={2.4}
          />
          <circle cx={endX} cy={y} r={3.4} className="fill-pick" />
        </>
      ) : (
        <path
          d={`M${x} ${y}v7H${endX}v-7`}
          fill="none"
          className={path.kind === "motif" ? "stroke-ink-3" : "stroke-ink"}
          strokeWidth={1.8}
          strokeDasharray={path.kind === "motif" ? "2 3" : undefined}
        />
      )}
      {said && (
        <text x={x - 2} y={y + 24} fontSize={13} fontWeight={across ? 700 : 400} className={dress}>
          {drawn(path.says)}
        </text>
      )}
    </g>
  );
}

/** How far behind or ahead each note was played: a dot at its expected place, a stroke to where it was heard. */
export function FeelMarks({
  near,
  lanes,
  notes,
  pxPerS,
}: Omit<Props, "axis"> & { notes: readonly Placed[]; pxPerS: number }) {
  const phrases = useAnalysing((state) => state.read?.phrases);
  const heard = useMemo(
    () => new Map((phrases ?? []).flatMap((phrase) => phrase.feel.notes.map((one) => [one.note, one] as const))),
    [phrases],
  );
  if (lanes.feel === null) return null;
  const y = lanes.feel;
  return notes
    .filter(({ x, id }) => heard.has(id) && near(x, x))
    .map(({ id, x }) => {
      const one = heard.get(id);
      const by = ((one?.ms ?? 0) / 1000) * pxPerS;
      return (
        <g key={id} data-feel={id}>
          <line x1={x} x2={x + by} y1={y} y2={y} className="stroke-heard" strokeWidth={5} />
          <circle cx={x} cy={y} r={4} className={one?.off === true ? "fill-doubt" : "fill-ink"} />
        </g>
      );
    });
}
