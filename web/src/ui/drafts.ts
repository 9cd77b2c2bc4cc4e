/** What was typed and is not stored: kept in this browser by its place, until it is stored or thrown away on purpose. */
import { useState } from "react";

const NAME = "usagi.draft.";

type Fields = Readonly<Record<string, string>>;
export type Draft<Of extends Fields> = {
  readonly value: Of;
  readonly set: (change: Partial<Of>) => void;
  /** What was typed earlier stands in the fields, not what is stored. */
  readonly kept: boolean;
  /** It is stored, or thrown away on purpose. */
  readonly drop: () => void;
};

const read = <Of extends Fields>(place: string, stored: Of): Of | null => {
  try {
    const text = localStorage.getItem(NAME + place);
    return text === null ? null : { ...stored, ...(JSON.parse(text) as Partial<Of>) };
  } catch {
    return null;
  }
};
const keep = (place: string, value: Fields | null): void => {
  try {
    if (value === null) localStorage.removeItem(NAME + place);
    else localStorage.setItem(NAME + place, JSON.stringify(value));
  } catch {
    // No room in this browser: the words stand in their field as long as that is open.
  }
};

/** Whether words lie at a place that were never stored. */
export const hasDraft = (place: string): boolean => {
  try {
    return localStorage.getItem(NAME + place) !== null;
  } catch {
    return false;
  }
};

/** Fields that begin as they are stored, or with what was typed at this place before; `place` stays the same while they are open. */
export const useDraft = <Of extends Fields>(place: string, stored: Of): Draft<Of> => {
  const [state, setState] = useState(() => {
    const before = read(place, stored);
    return { value: before ?? stored, kept: before !== null };
  });
  return {
    ...state,
    set: (change) =>
      setState((now) => {
        const value = { ...now.value, ...change };
        const same = Object.entries(stored).every(([name, text]) => value[name] === text);
        keep(place, same ? null : value);
        return { value, kept: now.kept && !same };
      }),
    drop: () => {
      keep(place, null);
      setState({ value: stored, kept: false });
    },
  };
};
