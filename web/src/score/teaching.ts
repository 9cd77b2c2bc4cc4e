/** The plan and the remarks of the open solo, as the server last said them, and the line that is chosen. */
import { create } from "zustand";
import type { Schemas } from "@/api/client";

export type PlanView = Schemas["PlanView"];
export type PlanLine = Schemas["PlanLineView"];
export type RemarkView = Schemas["RemarkView"];
export type Teaching = {
  readonly plan: PlanView | null;
  readonly chosen: string | null; // the key of a line
  readonly message: string;
};

/** What can be counted while a line is practised. */
export const COUNTS = [
  { value: "none", words: "nothing" },
  { value: "clicks", words: "clicks" },
  { value: "spoken", words: "spoken" },
] as const;

export const useTeaching = create<Teaching>(() => ({ plan: null, chosen: null, message: "" }));
export const teachingNow = useTeaching.getState;
export const setTeaching = (change: Partial<Teaching>): void => useTeaching.setState(change);

/** The line in hand: the one chosen, else the first. */
export const lineInHand = ({ plan, chosen }: Teaching): PlanLine | null =>
  plan === null ? null : (plan.lines.find(({ key }) => key === chosen) ?? plan.lines[0] ?? null);

/** The remarks about a span, in their order. */
export const remarksIn = (plan: PlanView | null, from: number, to: number): readonly RemarkView[] =>
  plan?.remarks.filter((one) => one.tick < to && from < one.end) ?? [];
