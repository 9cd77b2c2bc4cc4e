/** Whether the screen is a phone's: then the strip, the sentence and the player are in view, the rest in sheets from below. */
import { useSyncExternalStore } from "react";

const narrow = matchMedia("(max-width: 639px)");
const listen = (changed: () => void): (() => void) => {
  narrow.addEventListener("change", changed);
  return () => narrow.removeEventListener("change", changed);
};

export const useNarrow = (): boolean => useSyncExternalStore(listen, () => narrow.matches);
