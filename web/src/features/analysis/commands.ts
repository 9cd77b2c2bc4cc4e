/** What keys do while the analysis is open, in the place of what they do else. */
import { analysingNow, setAnalysing } from "@/score/analysis";
import { table } from "@/score/commands";
import { shownNow } from "@/score/shown";
import { askWhy, inHand, phraseInHand, pickReading, stepReading } from "./analysis";

const inForce = () => shownNow().stage === "analysis" && phraseInHand() !== null;
const blocked = () => (phraseInHand() === null ? "Nothing is written here that could be read." : null);
const ofReading = { blocked, inForce };

export const ANALYSIS = table({
  "pick reading": {
    instead: "reach",
    says: "pick the reading in hand, or let it go",
    ...ofReading,
    run: () => {
      const reading = inHand();
      if (reading !== null) void pickReading(reading);
    },
  },
  "next reading": { instead: "down", says: "the next reading", repeats: true, ...ofReading, run: () => stepReading(1) },
  "reading before": {
    instead: "up",
    says: "the reading before",
    repeats: true,
    ...ofReading,
    run: () => stepReading(-1),
  },
  why: {
    instead: "where else",
    says: "why the note at the cursor is called what it is",
    ...ofReading,
    run: () => {
      if (analysingNow().why !== null) setAnalysing({ why: null });
      else void askWhy();
    },
  },
  "in my words": {
    instead: "open",
    says: "tell the phrase in words of your own",
    words: true,
    atOnce: true,
    inForce: () => shownNow().stage === "analysis",
    blocked: () =>
      blocked() ?? (phraseInHand()?.id === null ? "Only a phrase can have your words: cut one here first." : null),
    run: () => setAnalysing({ telling: true, why: null }),
  },
});
export type AnalysisCommand = keyof typeof ANALYSIS;
