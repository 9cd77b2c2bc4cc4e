/** What this browser keeps of practice: how each line sounds, where one stands on its stair today, and how loud all is. */
import { type Stand, START } from "./stand";

const NAME = "usagi.practice";
const OF_ALL = ["volume", "countIn"] as const; // of the listener, not of a line

const read = (name: string): Record<string, unknown> => {
  try {
    return JSON.parse(localStorage.getItem(name) ?? "{}") as Record<string, unknown>;
  } catch {
    return {};
  }
};
const write = (name: string, value: object): void => {
  try {
    localStorage.setItem(name, JSON.stringify(value));
  } catch {
    // No room in this browser: it holds as long as the page is open.
  }
};
const soundOf = (solo: string, line: string): string => `${NAME}.sound ${solo} ${line}`;
const standOf = (solo: string, line: string): string => `${NAME}.stand ${solo} ${line}`;

/** How a line sounds: as it was left, else as `preset`; volume and count-in are the same for all lines. */
export const keptSound = <Sound extends object>(solo: string, line: string, preset: Sound): Sound => ({
  ...preset,
  ...read(NAME),
  ...read(soundOf(solo, line)),
});
export const keepSound = (solo: string, line: string, sound: object): void => {
  const all = Object.entries(sound).filter(([name]) => (OF_ALL as readonly string[]).includes(name));
  const own = Object.entries(sound).filter(([name]) => !(OF_ALL as readonly string[]).includes(name));
  write(NAME, Object.fromEntries(all));
  write(soundOf(solo, line), Object.fromEntries(own));
};

const today = (): string => new Date().toLocaleDateString("sv");

/** Where one stands on the stair of a line, if that was today and the stair is the same. */
export const keptStand = (solo: string, line: string, speeds: readonly number[]): Stand => {
  const { day, speeds: before, stand } = read(standOf(solo, line));
  const same = day === today() && JSON.stringify(before) === JSON.stringify(speeds);
  return same ? { ...START, ...(stand as Stand) } : START;
};
export const keepStand = (solo: string, line: string, speeds: readonly number[], stand: Stand): void =>
  write(standOf(solo, line), { day: today(), speeds, stand });
