/** What is open beside the strip, and what the tools show on the strip and on the neck. */
import { create } from "zustand";
import type { Schemas } from "@/api/client";
import { zoomStep } from "./axis";
import type { Selection } from "./cursor";
import { useSaving } from "./saving";

export type Tool = "note" | "listen" | "hand" | "doubts" | "find" | "by ear" | "versions" | "history";
/** Fingerings through a span, one of them shown on the neck. */
export type Previewed = Selection & { readonly found: Schemas["Ways"]; readonly at: number };
/** Another part of the same recording, laid under the one in hand. */
export type Under = { readonly id: string; readonly notes: readonly Schemas["PartNote"][] };

/** What is asked about going out and coming in: other formats, a picture, sound; a file to import. */
export type Taking = "formats" | "picture" | "sound" | File;

export type Stage = "ground" | "notes" | "check" | "analysis" | "phrases" | "teach";

export type Shown = {
  readonly stage: Stage;
  readonly pxPerS: number;
  readonly tool: Tool;
  readonly menu: boolean; // the menu at the note
  readonly keys: boolean; // the list of all keys
  readonly taking: Taking | null; // what is to be taken out of the solo, or put into it
  readonly legend: boolean;
  readonly otherChanges: Selection | null; // the span of which they are asked
  readonly ways: Previewed | null;
  readonly handMap: Schemas["HandMap"] | null; // drawn on the neck
  readonly compared: Schemas["Comparison"] | null;
  readonly under: Under | null;
  readonly placing: number | null; // the bar that the next click in the sound puts
  readonly words: boolean; // a field for words was asked for and is not there yet
  readonly figure: Selection | null; // the last figure that was repeated
};

export const FIRST_ZOOM = 127;

export const useShown = create<Shown>(() => ({
  stage: "notes",
  pxPerS: FIRST_ZOOM,
  tool: "note",
  menu: false,
  keys: false,
  taking: null,
  legend: false,
  otherChanges: null,
  ways: null,
  handMap: null,
  compared: null,
  under: null,
  placing: null,
  words: false,
  figure: null,
}));
export const shownNow = useShown.getState;
const set = useShown.setState;

export const openStage = (stage: Stage): void => set({ stage });
export const zoomTo = (pxPerS: number): void => set({ pxPerS });
export const zoomBy = (steps: number): void => zoomTo(zoomStep(shownNow().pxPerS, steps));
/** The messages of a tool stay until another tool is opened. */
export const openTool = (tool: Tool): void => {
  if (shownNow().tool === tool) return;
  set({ tool });
  useSaving.setState({ messages: [] });
};
export const openMenu = (menu: boolean): void => set({ menu });
export const openKeys = (keys: boolean): void => set({ keys });
export const openTaking = (taking: Taking | null): void => set({ taking });
export const openLegend = (legend: boolean): void => set({ legend });
export const askOtherChanges = (otherChanges: Selection | null): void => set({ otherChanges });
export const preview = (ways: Previewed | null): void => set({ ways });
export const drawMap = (handMap: Schemas["HandMap"] | null): void => set({ handMap });
export const compareTo = (compared: Schemas["Comparison"] | null): void => set({ compared });
export const layUnder = (under: Under | null): void => set({ under });
export const placeBar = (placing: number | null): void => set({ placing });
export const awaitWords = (words: boolean): void => set({ words });
export const setFigure = (figure: Selection | null): void => set({ figure });
