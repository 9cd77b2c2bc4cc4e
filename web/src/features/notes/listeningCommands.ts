/** What keys do to offers, in the place of what they do else: while the tool is open and an offer lies at the cursor. */
import { table } from "@/score/commands";
import { noteInHand } from "@/score/cursor";
import { hint } from "@/score/saving";
import { openTool } from "@/score/shown";
import {
  bendAsHeard,
  listen,
  noneOpen,
  noNoteHere,
  noOffer,
  noSound,
  offersOpen,
  offersInHand,
  otherOctave,
  otherPitch,
  slideOrBend,
  spanToHear,
  takeOffer,
  takeOffers,
} from "./listening";

const ofOffer = { blocked: noOffer, inForce: offersInHand };
const ofAll = { blocked: noneOpen, inForce: offersOpen };

export const LISTENING = table({
  listen: {
    key: "NumpadMultiply",
    says: "listen to what is marked, to the phrase or to the bar, and offer its notes",
    blocked: noSound,
    run: () => {
      const span = spanToHear();
      openTool("listen");
      if (span === null) hint("There is no bar here to listen to.");
      else void listen(span, { kept: true });
    },
  },
  "take offer": {
    instead: "reach",
    says: "take the offer and go on to the next",
    ...ofOffer,
    run: () => void takeOffer(),
  },
  "take sure": {
    instead: "menu",
    says: "take all offers that are sure",
    ...ofAll,
    run: () => void takeOffers("sure"),
  },
  "take all": { instead: "hand here", says: "take all offers", ...ofAll, run: () => void takeOffers("all") },
  "other pitch": { instead: "where else", says: "another likely pitch for the offer", ...ofOffer, run: otherPitch },
  octave: { instead: "open", says: "the offer in another octave", ...ofOffer, run: otherOctave },
  "slide or bend": { instead: "slide", says: "the offer as a slide or as a bend", ...ofOffer, run: slideOrBend },
  "no note": { instead: "delete", says: "no note here; it is remembered", ...ofOffer, run: () => void noNoteHere() },
  "as heard": {
    key: "NumpadDecimal",
    says: "the bend takes its size and timing from what is heard",
    blocked: () => (noteInHand() === null ? "No note is selected. Write one, or click on one." : null),
    run: () => {
      const note = noteInHand();
      if (note !== null) void bendAsHeard(note.id);
    },
  },
});
export type ListeningCommand = keyof typeof LISTENING;
