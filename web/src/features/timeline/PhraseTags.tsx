import { memo } from "react";
import { type Axis, type Grid, toPx } from "@/score/axis";
import { useCursor } from "@/score/cursor";
import { useDocument } from "@/score/document";
import { type Lanes } from "@/score/layout";

/** A phrase is a tag with a point where it ends; the selected one is filled. */
export const PhraseTags = memo(function PhraseTags({
  axis,
  grid,
  lanes,
  onPhrase,
}: {
  axis: Axis;
  grid: Grid;
  lanes: Lanes;
  onPhrase: (id: string) => void;
}) {
  const phrases = useDocument((state) => state.elements.phrases);
  const chosen = useCursor((state) => state.phrase);
  return (
    <div role="group" aria-label="Phrases">
      {Object.values(phrases)
        .sort((a, b) => a.start - b.start)
        .map((phrase) => {
          const left = toPx(axis, grid.second(phrase.start));
          const width = Math.max(14, toPx(axis, grid.second(phrase.end)) - left - 4);
          const inHand = phrase.id === chosen;
          return (
            <button
              key={phrase.id}
              type="button"
              aria-pressed={inHand}
              aria-label={`Phrase ${phrase.name || "without a name"}`}
              onClick={() => onPhrase(phrase.id)}
              className="absolute h-[24px] overflow-hidden text-left"
              style={{ left: lanes.margin + left + 2, top: lanes.phrases, width }}
            >
              <svg width={width} height={24} className="absolute inset-0" aria-hidden>
                <path
                  d={`M1 1H${width - 9}L${width - 1} 12L${width - 9} 23H1Z`}
                  className={inHand ? "fill-ink stroke-ink" : "fill-sheet stroke-rule-2"}
                  strokeWidth={1.2}
                />
              </svg>
              <span
                className={`relative block truncate pl-3 pr-4 text-[15px] font-bold leading-[24px] ${inHand ? "text-paper" : "text-ink"}`}
              >
                {phrase.name}
              </span>
            </button>
          );
        })}
    </div>
  );
});
