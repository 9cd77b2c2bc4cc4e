import { decide, dismiss, loadAnew, undo, useBench } from "@/score/bench";
import type { Clash } from "@/score/bench";
import type { Tables } from "@/score/types";
import { Button, Dialog } from "@/ui/parts";

const QUARTER = 10_080;

/** Two people changed one thing: both values, and which of them is to stand. */
export function ClashDialog() {
  const clash = useBench((state) => state.clash);
  const tables = useBench((state) => state.bench?.tables ?? null);
  if (clash === null || tables === null) return null;
  if (clash.edit === null) return <UndoClash clash={clash} />;
  const rows = differences(clash, tables);
  const what = clash.taken ? `Both ${clash.kind}s stand at one place` : `This ${clash.kind} was changed twice`;
  return (
    <Dialog open onOpenChange={() => undefined} title={what} wide={false}>
      <p>{clash.sentence}</p>
      <table className="my-4 w-full text-left text-[16px]">
        <thead><tr className="border-b border-rule-2"><th className="py-1 font-normal text-ink-2" aria-label="What" /><th className="py-1">Yours</th><th className="py-1">Stored</th></tr></thead>
        <tbody>
          {rows.map(([name, mine, theirs]) => (
            <tr key={name} className="border-b border-rule"><th className="py-1 pr-3 font-normal text-ink-2">{name}</th><td className="py-1 pr-3">{mine}</td><td className="py-1">{theirs}</td></tr>
          ))}
        </tbody>
      </table>
      <div className="flex flex-wrap justify-end gap-2">
        <Button onClick={() => void decide(false)}>Keep what is stored</Button>
        <Button strong autoFocus onClick={() => void decide(true)}>Keep mine</Button>
      </div>
      <p className="mt-3 border-t border-rule pt-2 text-[14px] text-ink-2">
        Other changes of yours go after this one, or <button type="button" className="underline underline-offset-2" onClick={() => void loadAnew()}>Lay all of mine aside</button>.
      </p>
    </Dialog>
  );
}

function UndoClash({ clash }: { clash: Clash }) {
  return (
    <Dialog open onOpenChange={dismiss} title="Not all of it can be undone">
      <p>{clash.sentence}</p>
      <div className="mt-4 flex justify-end gap-2">
        <Button quiet onClick={dismiss}>Leave it</Button>
        {clash.rest && <Button strong onClick={() => { dismiss(); void undo(true); }}>Undo the rest</Button>}
      </div>
    </Dialog>
  );
}

type Thing = Record<string, unknown> | null;

/** The fields in which two values of a thing differ, in words. */
const differences = (clash: Clash, tables: Tables): [string, string, string][] => {
  const { mine, theirs } = clash;
  if (mine === null || theirs === null) return [[clash.kind, mine === null ? "taken away" : summary(mine, tables), theirs === null ? "taken away" : summary(theirs, tables)]];
  if (clash.taken) return [[clash.kind, summary(mine, tables), summary(theirs, tables)]];
  const names = [...new Set([...Object.keys(mine), ...Object.keys(theirs)])];
  return names
    .filter((name) => name !== "id" && JSON.stringify(mine[name] ?? null) !== JSON.stringify(theirs[name] ?? null))
    .map((name) => [FIELDS[name] ?? name.replaceAll("_", " "), said(name, mine[name], tables), said(name, theirs[name], tables)]);
};

const FIELDS: Record<string, string> = { ticks: "length", tick: "place", course: "bend", pick: "picked", sure: "doubt" };

const summary = (thing: NonNullable<Thing>, tables: Tables): string =>
  ["string", "fret", "ticks", "name", "words", "symbol"].filter((name) => thing[name] !== undefined && thing[name] !== null && thing[name] !== "")
    .map((name) => (name === "ticks" ? said(name, thing[name], tables) : `${name === "string" || name === "fret" ? `${name} ` : ""}${said(name, thing[name], tables)}`)).join(", ");

const said = (name: string, value: unknown, tables: Tables): string => {
  if (value === null || value === undefined || value === "") return "none";
  if (typeof value === "boolean") return value ? "yes" : "no";
  if (name === "fret" && typeof value === "number") return String(value / 100);
  if (name === "ticks" && typeof value === "number") {
    const length = tables.lengths.find((one) => [one.ticks, one.dotted, one.triplet].includes(value));
    return length === undefined ? `${(value / QUARTER).toFixed(2)} quarter notes` : `${length.dotted === value ? "dotted " : ""}${length.name}${length.triplet === value ? " in a triplet" : ""}`;
  }
  if (name === "tick" && typeof value === "number") return `quarter ${(value / QUARTER + 1).toFixed(2)}`;
  if (name === "course" && Array.isArray(value)) {
    const highest = Math.max(0, ...(value as [number, number][]).map(([, quarters]) => quarters));
    const size = tables.bend_sizes.find((one) => one.quarters === highest)?.size;
    return value.length === 0 ? "none" : size === undefined ? `${highest} quarter tones` : `bent ${size}`;
  }
  if (typeof value === "object") return (value as { kind?: string }).kind ?? "yes";
  return typeof value === "number" ? String(value) : typeof value === "string" ? value : "yes";
};
