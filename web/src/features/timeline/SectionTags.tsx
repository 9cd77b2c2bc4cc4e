import { type Axis, type Grid, toPx } from "@/score/axis";
import { useDocument } from "@/score/document";
import { type Lanes } from "@/score/layout";

/** Sections over the bars that they have, each as often as it is played. */
export function SectionTags({ axis, grid, lanes }: { axis: Axis; grid: Grid; lanes: Lanes }) {
  const bars = useDocument((state) => state.bench?.strip.bars) ?? [];
  const starts = bars.filter((bar) => bar.section !== "");
  const end = bars[bars.length - 1]?.end ?? 0;
  return starts.map((bar, i) => {
    const left = toPx(axis, grid.second(bar.tick));
    const width = toPx(axis, grid.second(starts[i + 1]?.tick ?? end)) - left;
    return (
      <p
        key={bar.number}
        className="pointer-events-none absolute h-[24px] truncate border border-rule-2 bg-sheet pl-3 text-[15px] font-bold leading-[22px]"
        style={{ left: lanes.margin + left, top: lanes.phrases, width: Math.max(14, width) }}
      >
        {bar.section}
      </p>
    );
  });
}
