/** What the check found in the solo that is open: the list, the finding in hand and its drawing, while a worker listens. */
import { create } from "zustand";
import type { Schemas } from "@/api/client";

export type Finding = Schemas["FindingView"];
export type Group = Finding["group"];

export type Checking = {
  readonly check: Schemas["CheckView"] | null;
  readonly chosen: string | null; // the finding in hand
  readonly close: Schemas["CloserView"] | null; // of it
  readonly group: Group | null; // the list shows this one alone
  readonly waived: boolean; // the list shows what is waived
  readonly mending: ReadonlySet<string>; // findings that are being mended: the list has left them already
  readonly waiving: boolean; // a reason is being typed
  readonly estimate: Schemas["Estimate"] | null; // while a worker listens
  readonly asking: boolean; // a worker is being asked to listen
  readonly message: string;
};

export const useChecking = create<Checking>(() => ({
  check: null,
  chosen: null,
  close: null,
  group: null,
  waived: false,
  mending: new Set(),
  waiving: false,
  estimate: null,
  asking: false,
  message: "",
}));
export const checkingNow = useChecking.getState;
export const setChecking = (change: Partial<Checking>): void => useChecking.setState(change);
export const forgetChecking = (): void => useChecking.setState(useChecking.getInitialState());

const NONE: readonly Finding[] = [];

/** The findings that the list shows. */
export const listed = ({ check, group, waived, mending }: Checking): readonly Finding[] => {
  const all = ((waived ? check?.waived : check?.findings) ?? NONE).filter(({ id }) => !mending.has(id));
  return group === null ? all : all.filter((one) => one.group === group);
};

/** The finding in hand, waived or not. */
export const findingInHand = (state: Checking): Finding | null =>
  [...(state.check?.findings ?? NONE), ...(state.check?.waived ?? NONE)].find(({ id }) => id === state.chosen) ?? null;
