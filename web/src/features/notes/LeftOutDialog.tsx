import { useState } from "react";
import { setCursor } from "@/score/cursor";
import { useDocument } from "@/score/document";
import { dismiss, useSaving } from "@/score/saving";
import type { LeftOut } from "@/score/outbox";
import { dropLeftOut, sendAgain, undo } from "@/score/sending";
import type { Tables } from "@/score/types";
import { Button, Dialog } from "@/ui/parts";

const QUARTER = 10_080;
/** Refusals because something else stands there: mine may go over it. */
const CONFLICTS: readonly string[] = ["edit-conflict", "place-taken"];

/** What the server left out and nobody has decided on: how many, and a list to try each again, change it or drop it. */
export function LeftOutButton() {
  const leftOut = useSaving((state) => state.leftOut);
  const tables = useDocument((state) => state.bench?.tables ?? null);
  const [open, setOpen] = useState(false);
  if (leftOut.length === 0 || tables === null) return null;
  const words = leftOut.length === 1 ? "1 change left out" : `${leftOut.length} changes left out`;
  return (
    <>
      <button type="button" className="font-bold text-doubt underline underline-offset-2" onClick={() => setOpen(true)}>
        {words}
      </button>
      <Dialog wide open={open} onOpenChange={setOpen} title="Changes that were left out">
        <p className="text-ink-2">These were not saved. They stay here, on this computer, until you decide.</p>
        <ul className="mt-3">
          {leftOut.map((one) => (
            <Item key={one.act} one={one} tables={tables} onGo={() => setOpen(false)} />
          ))}
        </ul>
      </Dialog>
    </>
  );
}

function Item({ one, tables, onGo }: { one: LeftOut; tables: Tables; onGo: () => void }) {
  const label = one.edits[0]?.label ?? "a change";
  const conflict = CONFLICTS.includes(one.code) && one.restsOn === null;
  const rows = conflict ? differences(one, tables) : [];
  const tick = placeOf(one);
  return (
    <li aria-label={label} className="border-t border-rule py-3">
      <p className="text-[17px] font-bold">{label}</p>
      <p>{one.sentence}</p>
      {rows.length > 0 && (
        <table className="my-2 w-full text-left text-[16px]">
          <thead>
            <tr className="border-b border-rule-2">
              <th className="py-1 font-normal text-ink-2" aria-label="What" />
              <th className="py-1">Yours</th>
              <th className="py-1">Saved</th>
            </tr>
          </thead>
          <tbody>
            {rows.map(([name, mine, theirs]) => (
              <tr key={name} className="border-b border-rule">
                <th className="py-1 pr-3 font-normal text-ink-2">{name}</th>
                <td className="py-1 pr-3">{mine}</td>
                <td className="py-1">{theirs}</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      <div className="mt-2 flex flex-wrap gap-2">
        {conflict && (
          <Button strong onClick={() => sendAgain(one, true)}>
            Use mine
          </Button>
        )}
        <Button onClick={() => sendAgain(one)}>Try again</Button>
        {tick !== null && (
          <Button
            onClick={() => {
              setCursor({ tick, ...stringOf(one) });
              onGo();
            }}
          >
            Go there to change it
          </Button>
        )}
        <Button quiet onClick={() => void dropLeftOut(one)}>
          Discard
        </Button>
      </div>
    </li>
  );
}

/** Asks what to do with an undo of something that another changed since. */
export function UndoClash() {
  const clash = useSaving((state) => state.clash);
  if (clash === null) return null;
  return (
    <Dialog open onOpenChange={dismiss} title="Not all of it can be undone">
      <p>{clash.sentence}</p>
      <div className="mt-4 flex justify-end gap-2">
        <Button quiet onClick={dismiss}>
          Cancel
        </Button>
        {clash.rest && (
          <Button
            strong
            onClick={() => {
              dismiss();
              void undo(true);
            }}
          >
            Undo the rest
          </Button>
        )}
      </div>
    </Dialog>
  );
}

const valuesOf = (one: LeftOut): NonNullable<Element>[] =>
  one.edits
    .flatMap((edit) => edit.changes)
    .flatMap((change) => {
      const value = (change.after ?? change.before ?? null) as Element;
      return value === null ? [] : [value];
    });
const placeOf = (one: LeftOut): number | null =>
  valuesOf(one)
    .map((value) => value["tick"] ?? value["start"])
    .find((tick) => typeof tick === "number") ?? null;
const stringOf = (one: LeftOut): { string?: number } => {
  const string = valuesOf(one)
    .map((value) => value["string"])
    .find((value) => typeof value === "number");
  return string === undefined ? {} : { string };
};

type Element = Record<string, unknown> | null;

/** The fields in which two values of an element differ, in words. */
const differences = (one: LeftOut, tables: Tables): [string, string, string][] => {
  const change = one.edits.flatMap((edit) => edit.changes).find(({ kind, id }) => kind === one.kind && id === one.id);
  if (change === undefined || one.kind === null) return [];
  const [mine, theirs] = [(change.after ?? null) as Element, one.now as Element];
  if (mine === null || theirs === null)
    return [
      [
        one.kind,
        mine === null ? "removed" : summary(mine, tables),
        theirs === null ? "removed" : summary(theirs, tables),
      ],
    ];
  if (one.code === "place-taken") return [[one.kind, summary(mine, tables), summary(theirs, tables)]];
  const names = [...new Set([...Object.keys(mine), ...Object.keys(theirs)])];
  return names
    .filter((name) => name !== "id" && JSON.stringify(mine[name] ?? null) !== JSON.stringify(theirs[name] ?? null))
    .map((name) => [
      FIELDS[name] ?? name.replaceAll("_", " "),
      worded(name, mine[name], tables),
      worded(name, theirs[name], tables),
    ]);
};

const FIELDS: Record<string, string> = {
  ticks: "length",
  tick: "place",
  course: "bend",
  pick: "picked",
  sure: "doubt",
};

const summary = (element: NonNullable<Element>, tables: Tables): string =>
  ["string", "fret", "ticks", "name", "words", "symbol"]
    .filter((name) => element[name] !== undefined && element[name] !== null && element[name] !== "")
    .map((name) =>
      name === "ticks"
        ? worded(name, element[name], tables)
        : `${name === "string" || name === "fret" ? `${name} ` : ""}${worded(name, element[name], tables)}`,
    )
    .join(", ");

const worded = (name: string, value: unknown, tables: Tables): string => {
  if (value === null || value === undefined || value === "") return "none";
  if (typeof value === "boolean") return value ? "yes" : "no";
  if (name === "fret" && typeof value === "number") return String(value / 100);
  if (name === "ticks" && typeof value === "number") {
    const length = tables.lengths.find((one) => [one.ticks, one.dotted, one.triplet].includes(value));
    return length === undefined
      ? `${(value / QUARTER).toFixed(2)} quarter notes`
      : `${length.dotted === value ? "dotted " : ""}${length.name}${length.triplet === value ? " in a triplet" : ""}`;
  }
  if (name === "tick" && typeof value === "number") return `quarter ${(value / QUARTER + 1).toFixed(2)}`;
  if (name === "course" && Array.isArray(value)) {
    const highest = Math.max(0, ...(value as [number, number][]).map(([, quarters]) => quarters));
    const size = tables.bend_sizes.find((one) => one.quarters === highest)?.size;
    return value.length === 0 ? "none" : size === undefined ? `${highest} quarter tones` : `bent ${size}`;
  }
  if (name === "vibrato") {
    const { width_cents, rate_hz } = value as { width_cents: number; rate_hz: number };
    return `${width_cents} cents, ${rate_hz} Hz`;
  }
  if (name === "trill") {
    const { fret, rate_hz } = value as { fret: number; rate_hz: number };
    return `fret ${fret / 100}, ${rate_hz} Hz`;
  }
  if (name === "notes" && Array.isArray(value)) return `${value.length} note${value.length === 1 ? "" : "s"}`;
  if (typeof value === "object") return (value as { kind?: string }).kind ?? "yes";
  return typeof value === "number" ? String(value) : typeof value === "string" ? value : "yes";
};
