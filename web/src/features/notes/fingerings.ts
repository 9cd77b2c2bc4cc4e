/** Fingerings through a span: asked for, shown on the neck one after the other, and taken. */
import { api, type Schemas, sentence, take } from "@/api/client";
import { openDocument } from "@/score/document";
import { takePlaces } from "@/score/edits";
import { useLook } from "@/score/look";
import { hint } from "@/score/saving";
import { act, settled } from "@/score/sending";
import { openTool, preview, shownNow } from "@/score/shown";
import { spanInHand } from "./writing";

/** Ask for the fingerings of a span, and show the first that is not how it is written. Says what went wrong. */
export const askWays = async (span = spanInHand()): Promise<string | null> => {
  const { bench } = openDocument();
  const { handSize } = useLook.getState();
  if (bench === null || span === null) return "There is no note here. Mark a span, or select a note.";
  try {
    await settled(); // what was just written is to be in it
    // The client widens tuples to arrays; the server sent what its schema says.
    const found = (await take(
      api.GET("/api/solos/{solo_id}/ways", {
        params: { path: { solo_id: bench.solo_id }, query: { start: span.from, end: span.to, hand: handSize } },
      }),
    )) as unknown as Schemas["Ways"];
    const other = found.ways.findIndex((way) => !way.written);
    preview({ ...span, found, at: Math.max(0, other) });
    return null;
  } catch (fault) {
    preview(null);
    return sentence(fault);
  }
};

/** The fingerings of what is in hand; again: the next of them. */
export const showOtherPlaces = (): void => {
  const { tool, ways } = shownNow();
  if (tool !== "hand" || ways === null) {
    void askWays().then((trouble) => {
      if (trouble === null) openTool("hand");
      else hint(trouble);
    });
  } else if (ways.found.ways.length > 0) preview({ ...ways, at: (ways.at + 1) % ways.found.ways.length });
};

/** Take the fingering that is shown. */
export const takeWay = (): void => {
  const { ways } = shownNow();
  const way = ways?.found.ways[ways.at];
  if (way !== undefined) act(takePlaces(openDocument().elements, `take the ${way.title}`, way.places));
  preview(null);
};
