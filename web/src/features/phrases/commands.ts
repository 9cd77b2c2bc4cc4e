/** What keys do with phrases: in their own stage in the place of what they do else; a lick is kept anywhere. */
import { table } from "@/score/commands";
import { shownNow } from "@/score/shown";
import { goToPhrase, keepLick, spanInHand } from "./phrases";

const blocked = () =>
  spanInHand() === null ? "There is no phrase here. Mark some notes, and keep them as a lick." : null;
const inForce = () => shownNow().stage === "phrases";

export const PHRASES = table({
  "keep lick": {
    shift: "block",
    says: "keep what is marked, or the phrase, as a lick",
    blocked,
    run: () => void keepLick(),
  },
  "keep phrase": { instead: "reach", says: "keep the phrase as a lick", blocked, inForce, run: () => void keepLick() },
  "phrase below": { instead: "down", says: "the next phrase", repeats: true, inForce, run: () => goToPhrase(1) },
  "phrase above": { instead: "up", says: "the phrase before", repeats: true, inForce, run: () => goToPhrase(-1) },
});
