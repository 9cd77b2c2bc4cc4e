/** What keys do for teaching: what is marked joins the plan. The lines of the plan have keys of their own in their list. */
import { table } from "@/score/commands";
import { shownNow } from "@/score/shown";
import { practise } from "./plan";

const says = "practise what is marked by itself: it joins the plan";
const run = (): void => void practise();

export const TEACHING = table({
  practise: { key: "NumpadDivide", says, run },
  "practise marked": { instead: "unsure", says, inForce: () => shownNow().stage === "phrases", run },
});
