/** Day and slate, and the switches that change the drawing only; kept in this browser. */
import { create } from "zustand";

export type Look = { theme: "day" | "slate"; flipStrings: boolean; mirrorHand: boolean };
const NAME = "usagi.look";

const stored = (): Look => {
  const preset: Look = { theme: matchMedia("(prefers-color-scheme: dark)").matches ? "slate" : "day", flipStrings: false, mirrorHand: false };
  try {
    return { ...preset, ...(JSON.parse(localStorage.getItem(NAME) ?? "{}") as Partial<Look>) };
  } catch {
    return preset;
  }
};

export const useLook = create<Look>(() => stored());

export const setLook = (change: Partial<Look>): void => {
  useLook.setState(change);
  localStorage.setItem(NAME, JSON.stringify(useLook.getState()));
  dress();
};

export const dress = (): void => {
  document.documentElement.dataset["theme"] = useLook.getState().theme;
};
