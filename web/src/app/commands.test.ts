import { describe, expect, it, vi } from "vitest";
import type { Command } from "@/score/commands";
import { capOf, keysOnNeck, learnLetter } from "@/score/hand";
import {
  bound,
  capIn,
  codeOf,
  inItsPlace,
  commandOf,
  type Keys,
  keysOf,
  type OwnKeys,
  pedalCommand,
  PRESET_KEYS,
  shifted,
  writes,
} from "@/score/keymap";

vi.stubGlobal("matchMedia", () => ({ matches: false }));
vi.stubGlobal("localStorage", { getItem: () => null });
const { COMMANDS, MENUS } = await import("./commands");
const { useSaving } = await import("@/score/saving");
const { perform } = await import("@/score/commands");

const all = Object.values(COMMANDS);
const withKey = all.filter((command) => command.key !== undefined);
const command = (name: string): Command => {
  const found = COMMANDS[name];
  if (found === undefined) throw new Error(`no command ${name}`);
  return found;
};
const of = (code: string, keys: Keys) => commandOf(COMMANDS, code, keys)?.name;
const plain = keysOf(PRESET_KEYS);
const boards = [
  plain,
  { ...plain, mirrored: true },
  { ...plain, numbers: true },
  { ...plain, numbers: true, mirrored: true },
];

describe("commands that stand in for others", () => {
  it("do so while they are in force, and say the key of the other", () => {
    const instead = all.filter((one) => one.instead !== undefined);
    expect(instead.length).toBeGreaterThan(5);
    for (const one of instead) {
      const other = command(one.instead ?? "");
      expect(inItsPlace(COMMANDS, other)).toBe(other); // no offer lies at the cursor
      expect(one.key ?? one.shift).toBeUndefined();
    }
    expect(capIn(COMMANDS, command("take offer"), plain)).toEqual(["↵"]);
    expect(capIn(COMMANDS, command("take sure"), plain)).toEqual(["⇧", "↵"]);
    expect(capIn(COMMANDS, command("no note"), { ...plain, own: { delete: "KeyX" } })).toEqual(["X"]);
    expect(
      inItsPlace({ ...COMMANDS, offer: { ...command("take offer"), inForce: () => true } }, command("reach")).name,
    ).toBe("take offer");
  });
});

describe("the table of commands", () => {
  it("has each name once, and every one says what it does", () => {
    expect(all.map((one) => one.name)).toEqual(Object.keys(COMMANDS));
    expect(all.filter((one) => one.says.length <= 3)).toEqual([]);
  });
  it("is all that the menus list, each under a label of its own", () => {
    for (const items of Object.values(MENUS)) {
      const labels = items.map((item) => item.label?.());
      expect(new Set(labels).size).toBe(items.length);
      expect(items.filter((item) => COMMANDS[item.name] !== item)).toEqual([]);
    }
  });
  it("says why something cannot be done, and does not do it", () => {
    for (const [name, why] of [
      ["bend", "No note is selected. Write one, or click on one."],
      ["stroke", "No note is selected. Write one, or click on one."],
      ["delete", "There is nothing to delete here."],
      ["undo", "There is nothing to undo."],
      ["loop", "There is no phrase here. Mark a span to loop it."],
    ] as const) {
      perform(command(name));
      expect(useSaving.getState().trouble).toBe(why);
    }
  });
});

describe("the keymap", () => {
  it.each(boards)("has no key twice, and none that writes notes ($mirrored, $numbers)", (keys) => {
    const codes = withKey.map((one) => codeOf(one, keys));
    expect(new Set(codes).size).toBe(codes.length);
    expect(codes.filter((code) => writes(code, keys))).toEqual([]);
  });
  it.each(boards)("finds the command of every key ($mirrored, $numbers)", (keys) => {
    for (const one of withKey) expect(of(codeOf(one, keys), keys)).toBe(one.name);
    expect(of("Backspace", keys)).toBe("delete");
    expect(of("F12", keys)).toBeUndefined();
  });
  it("lays the block where the neck shows it", () => {
    const block = keysOnNeck({ position: 5, strings: 6, slide: 0, mirrored: false }).map((key) => key.code);
    expect(block.every((code) => writes(code, plain))).toBe(true);
  });
  it("binds a key anew; what had it takes the old one", () => {
    const own = bound(COMMANDS, command("bend"), "KeyO", plain);
    expect(own).toEqual({ bend: "KeyO", vibrato: "KeyU" });
    const keys = { ...plain, own: own as OwnKeys };
    expect([of("KeyO", keys), of("KeyU", keys)]).toEqual(["bend", "vibrato"]);
    expect(bound(COMMANDS, command("bend"), "NumpadEnter", plain)).toEqual({ bend: "NumpadEnter" });
  });
  it("leads on a key that was kept under an earlier name", () => {
    const keys = keysOf({ ...PRESET_KEYS, own: { shake: "F13" } });
    expect(codeOf(command("vibrato"), keys)).toBe("F13");
  });
  it.each([
    ["KeyT", "writes notes"],
    ["PageDown", "pedal"],
    ["Tab", "browser"],
    ["F5", "browser"],
    ["ShiftLeft", "browser"],
  ])("keeps %s where it is", (code, words) => {
    expect(bound(COMMANDS, command("bend"), code, plain)).toContain(words);
  });
  it("gives the pedal its pages, and the arrows when asked", () => {
    const pedal = (code: string, arrows: boolean) => pedalCommand(COMMANDS, code, arrows)?.name;
    expect([pedal("PageDown", false), pedal("PageUp", false), pedal("ArrowRight", false)]).toEqual([
      "play",
      "next phrase",
      undefined,
    ]);
    expect(["ArrowRight", "ArrowLeft", "ArrowDown", "ArrowUp"].map((code) => pedal(code, true))).toEqual([
      "play",
      "next phrase",
      "loop",
      "phrase before",
    ]);
  });
  it("learns the letters of another board", () => {
    expect(capOf("KeyQ")).toBe("Q");
    expect(learnLetter("KeyQ", "a")).toBe(true);
    expect(learnLetter("Semicolon", "ö")).toBe(true);
    expect([capOf("KeyQ"), capOf("Semicolon"), capOf("KeyW")]).toEqual(["A", "Ö", "W"]);
    expect(learnLetter("Digit1", "!")).toBe(false);
    expect(learnLetter("KeyQ", "Shift")).toBe(false);
  });
  it("has one command more on a key with shift, and leaves the others as they are", () => {
    const more = all.filter((one) => one.shift !== undefined);
    expect(new Set(more.map((one) => one.shift)).size).toBe(more.length);
    expect(more.filter((one) => command(one.shift ?? "").key === undefined)).toEqual([]);
    expect(shifted(COMMANDS, command("bend")).name).toBe("prebend");
    expect(shifted(COMMANDS, command("delete")).name).toBe("delete");
  });
});
