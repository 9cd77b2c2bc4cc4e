/** The spans of a solo that can be taken out of it: what is marked, each phrase, all of it. */
import { atHand } from "@/score/cursor";
import { openDocument } from "@/score/document";

export type Span = { readonly name: string; readonly words: string; readonly start: number; readonly end: number };

export const spansOf = (): readonly Span[] => {
  const { bench, elements } = openDocument();
  const bars = bench?.strip.bars ?? [];
  const first = bars[0];
  const last = bars.at(-1);
  if (first === undefined || last === undefined) return [];
  const barAt = (tick: number) => bars.find((bar) => tick < bar.end)?.number ?? last.number;
  const { selection, cursor } = atHand();
  const here = bars.find((bar) => cursor.tick < bar.end) ?? last;
  const marked =
    selection === null ? [] : [{ name: "", words: "What is marked", start: selection.from, end: selection.to }];
  const phrases = Object.values(elements.phrases)
    .sort((a, b) => a.start - b.start)
    .map((one) => ({
      name: one.name,
      words: `${one.name === "" ? "A phrase" : one.name}, from bar ${barAt(one.start)}`,
      start: one.start,
      end: one.end,
    }));
  return [
    ...marked,
    ...phrases,
    { name: `bar ${here.number}`, words: `Bar ${here.number}, at the cursor`, start: here.tick, end: here.end },
    { name: "", words: "All of it", start: first.tick, end: last.end },
  ];
};
