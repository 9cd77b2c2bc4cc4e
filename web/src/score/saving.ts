/** Where the edits are, and what is said about them. */
import { create } from "zustand";
import type { LeftOut } from "./outbox";

export type Sending = "saved" | "sending" | "away" | "refused";
/** An undo of something that another changed since; `rest`: the rest of it can be undone. */
export type Clash = { readonly sentence: string; readonly rest: boolean };

export type Saving = {
  readonly sending: Sending;
  readonly waiting: number;
  readonly trouble: string | null;
  readonly messages: readonly string[]; // what the server found on the way of the last request
  readonly clash: Clash | null;
  readonly leftOut: readonly LeftOut[]; // acts that were refused and wait for a decision
};

export const useSaving = create<Saving>(() => ({
  sending: "saved",
  waiting: 0,
  trouble: null,
  messages: [],
  clash: null,
  leftOut: [],
}));

export const hint = (trouble: string): void => useSaving.setState({ trouble });
export const dismiss = (): void => useSaving.setState({ trouble: null, clash: null });
