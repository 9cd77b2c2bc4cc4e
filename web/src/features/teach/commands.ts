/** What keys do for teaching: any mark joins the plan; in the Teach stage they choose and order its lines. */
import { table } from "@/score/commands";
import { shownNow } from "@/score/shown";
import { lineInHand, teachingNow } from "@/score/teaching";
import { leaveOut, moveLine, practise, step } from "./plan";

const inForce = () => shownNow().stage === "teach";
const blocked = () => (lineInHand(teachingNow()) === null ? "The plan is empty: write some notes first." : null);
const move = (by: 1 | -1): void => {
  const line = lineInHand(teachingNow());
  if (line !== null) void moveLine(line.what, by);
};

export const TEACHING = table({
  practise: {
    key: "NumpadDivide",
    says: "practise what is marked by itself: it joins the plan",
    run: () => void practise(),
  },
  "practise marked": {
    instead: "unsure",
    says: "practise what is marked by itself: it joins the plan",
    inForce: () => shownNow().stage === "phrases",
    run: () => void practise(),
  },
  "line below": { instead: "down", says: "the next line of the plan", repeats: true, inForce, run: () => step(1) },
  "line above": { instead: "up", says: "the line of the plan before", repeats: true, inForce, run: () => step(-1) },
  "line further down": { instead: "right", says: "move the line down the plan", inForce, blocked, run: () => move(1) },
  "line further up": { instead: "left", says: "move the line up the plan", inForce, blocked, run: () => move(-1) },
  "leave line out": {
    instead: "delete",
    says: "leave the line out of the plan",
    inForce,
    blocked,
    run: () => {
      const line = lineInHand(teachingNow());
      if (line !== null) void leaveOut(line.what);
    },
  },
});
