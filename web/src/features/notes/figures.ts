/** Figures written again: the whole or its tail, at once behind themselves. The server copies; here it is only said which. */
import { api, type Schemas, take } from "@/api/client";
import { atHand, select, setCursor } from "@/score/cursor";
import { openDocument } from "@/score/document";
import { hint } from "@/score/saving";
import { setFigure, shownNow } from "@/score/shown";
import { entryNow, ticksNow } from "@/score/entry";
import { request } from "@/score/sending";
import { inOrder } from "@/score/elements";

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
  const { tick: to } = atHand().cursor;
  const last = inOrder(openDocument().elements.notes).findLast((note) => note.tick < to);
  if (last === undefined) {
    hint("There is no note before the cursor to repeat.");
    return;
  }
  const ticks = ticksNow();
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
  const ticks = ticksNow();
  const { tick } = atHand().cursor;
  if (
    await request((solo_id) =>
      take(
        api.POST("/api/solos/{solo_id}/chord-shape", {
          params: { path: { solo_id } },
          body: { tick, ticks, position: entryNow().position },
        }),
      ),
    )
  )
    setCursor({ tick: tick + ticks });
};

/** What stands before the cursor: what is marked, the figure that was repeated last, else the bar so far, or the bar before. */
const figureBefore = (): { from: number; to: number } | null => {
  const { selection, cursor } = atHand();
  const { figure } = shownNow();
  if (selection !== null) return selection;
  if (figure !== null && figure.to === cursor.tick) return figure;
  const bars = openDocument().bench?.strip.bars ?? [];
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
  const { cursor, selection } = atHand();
  const to = selection === null ? cursor.tick : selection.to;
  if (await copyFigure({ start: from, end: found.to, to })) setFigure({ from: to, to: to + found.to - from });
};
