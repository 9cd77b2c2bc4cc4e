/** Figures written again: the whole or its tail, at once behind themselves. The server copies; here it is only said which. */
import { api, type Schemas, take } from "@/api/client";
import { hint, select, setCursor, setFigure, ticksOf, useBench } from "@/score/bench";
import { request } from "@/score/sending";
import { inOrder } from "@/score/edits";

/** A span, where it goes, and the one operation that changes it on the way. */
export type FigureCopy = Pick<Schemas["CopyRequest"], "start" | "end" | "to"> & Partial<Schemas["CopyRequest"]>;
const AS_IT_IS = { frets: 0, strings: 0, to_chord: false, direction: "nearest" } as const;

/** Copy what begins in a span to another place; whether it was taken. */
export const copyFigure = async (copy: FigureCopy): Promise<boolean> => {
  const body = { ...AS_IT_IS, ...copy };
  const taken = await request((solo_id) =>
    take(api.POST("/api/solos/{solo_id}/figures", { params: { path: { solo_id } }, body })),
  );
  if (taken) {
    select(null);
    setCursor({ tick: body.to + body.end - body.start });
  }
  return taken;
};

/** The last stack or note before the cursor struck again, as long as the length in force. */
export const strikeAgain = async (): Promise<void> => {
  const state = useBench.getState();
  const last = inOrder(state.elements.notes).findLast((note) => note.tick < state.cursor.tick);
  if (last === undefined) {
    hint("There is no note before the cursor to repeat.");
    return;
  }
  const ticks = ticksOf(state);
  const to = state.cursor.tick;
  if (
    await request((solo_id) =>
      take(
        api.POST("/api/solos/{solo_id}/figures", {
          params: { path: { solo_id } },
          body: { start: last.tick, end: last.tick + 1, to, ticks, ...AS_IT_IS },
        }),
      ),
    )
  )
    setCursor({ tick: to + ticks });
};

/** The chart's chord under the hand, at the cursor. */
export const writeChord = async (): Promise<void> => {
  const state = useBench.getState();
  const ticks = ticksOf(state);
  const { tick } = state.cursor;
  if (
    await request((solo_id) =>
      take(
        api.POST("/api/solos/{solo_id}/chord-shape", {
          params: { path: { solo_id } },
          body: { tick, ticks, position: state.entry.position },
        }),
      ),
    )
  )
    setCursor({ tick: tick + ticks });
};

/** What stands before the cursor: what is marked, the figure that was repeated last, else the bar so far, or the bar before. */
const figureBefore = (): { from: number; to: number } | null => {
  const { selection, figure, cursor, bench } = useBench.getState();
  if (selection !== null) return selection;
  if (figure !== null && figure.to === cursor.tick) return figure;
  const bars = bench?.strip.bars ?? [];
  const bar = bars.find((one) => one.tick < cursor.tick && cursor.tick <= one.end);
  return bar === undefined ? null : { from: bar.tick, to: cursor.tick };
};

export const repeatFigure = async (tail: boolean): Promise<void> => {
  const found = figureBefore();
  if (found === null) {
    hint("There is no figure before the cursor.");
    return;
  }
  const from = tail ? Math.round((found.from + found.to) / 2) : found.from;
  const { cursor, selection } = useBench.getState();
  const to = selection === null ? cursor.tick : selection.to;
  if (await copyFigure({ start: from, end: found.to, to })) setFigure({ from: to, to: to + found.to - from });
};
