/**
 * How this reader wants it: dark or light, what changes the drawing only, the keys, and how degrees and names are said. Kept in
 * this browser under the name and in the form that it always had; zustand's persist has a form of its own, and leading the old
 * one on would be longer than these lines.
 */
import { create } from "zustand";
import { type Reader, readAs } from "@/api/client";
import { type KeySettings, PRESET_KEYS } from "./keymap";

export type Look = KeySettings & {
  readonly theme: "day" | "slate";
  readonly flipStrings: boolean;
  readonly reader: Reader;
  readonly handSize: "small" | "usual" | "large";
};
const NAME = "usagi.look";

const stored = (): Look => {
  const preset: Look = {
    theme: matchMedia("(prefers-color-scheme: dark)").matches ? "slate" : "day",
    flipStrings: false,
    reader: { style: "default", names: "letters", school: "a" },
    handSize: "usual",
    ...PRESET_KEYS,
  };
  try {
    const kept = JSON.parse(localStorage.getItem(NAME) ?? "{}") as Partial<Look>;
    return { ...preset, ...kept, reader: { ...preset.reader, ...kept.reader } };
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
  readAs(useLook.getState().reader);
};
