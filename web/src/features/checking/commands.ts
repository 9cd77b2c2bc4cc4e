/** What keys do to findings, in the place of what they do else: while the check is open and a finding is in hand. */
import { checkingNow, findingInHand, setChecking } from "@/score/checking";
import { table } from "@/score/commands";
import { shownNow } from "@/score/shown";
import { hearBoth, mend, step } from "./checking";

const finding = () => findingInHand(checkingNow());
const inForce = () => shownNow().stage === "check" && finding() !== null;
const blocked = () => (finding() === null ? "There is no finding in hand. Choose one from the list." : null);
const ofFinding = { blocked, inForce };

export const CHECKING = table({
  "mend finding": {
    instead: "reach",
    says: "mend the finding and go on to the next",
    ...ofFinding,
    run: () => {
      const one = finding();
      if (one !== null) void mend(one);
    },
  },
  "next finding": { instead: "down", says: "the next finding", repeats: true, ...ofFinding, run: () => step(1) },
  "finding before": { instead: "up", says: "the finding before", repeats: true, ...ofFinding, run: () => step(-1) },
  "hear both": {
    instead: "where else",
    says: "hear the finding: the recording and the writing in turns",
    ...ofFinding,
    run: () => {
      const one = finding();
      if (one !== null) hearBoth(one);
    },
  },
  "waive finding": {
    instead: "open",
    says: "let the finding stand, with a reason",
    words: true,
    atOnce: true,
    blocked,
    inForce: () => shownNow().stage === "check",
    run: () => setChecking({ waiving: true }),
  },
});
export type CheckingCommand = keyof typeof CHECKING;
