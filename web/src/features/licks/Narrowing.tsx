import { useEffect } from "react";
import { Button, Dialog, Field } from "@/ui/parts";
import { type Option, Select } from "@/ui/Select";
import { drawn } from "@/ui/signs";
import { loadChoices, type Narrowing as Narrowed, OPEN, search, setBook, useBook } from "./book";

const BEATS: readonly Option[] = [
  { value: "", words: "any beat" },
  ...[1, 2, 3, 4, 5, 6].flatMap((beat) => [
    { value: String(2 * beat), words: `on beat ${beat}` },
    { value: String(2 * beat + 1), words: `after beat ${beat}` },
  ]),
];
const DEGREES = ["1", "b9", "9", "b3", "3", "11", "b5", "5", "b13", "13", "b7", "7"];
const KEYS = ["C", "Db", "D", "Eb", "E", "F", "F#", "G", "Ab", "A", "Bb", "B"];
const TECHNIQUES = [
  "bend", "prebend", "release", "curl", "vibrato", "hammer-on", "pull-off", "slide", "slide in", "slide off",
  "double stop", "harmonic", "tapped", "trill", "tremolo", "rake", "dead note", "ghost note", "palm mute", "let ring",
  "staccato", "bar dip", "bar vibrato", "choke", "accent",
]; // prettier-ignore

const any = (words: string, values: readonly string[]): Option[] => [
  { value: "", words },
  ...values.map((value) => ({ value, words: drawn(value) })),
];

/** What is set, in words; a click opens it. */
const words = (name: keyof Narrowed, value: string): string => {
  const beat = BEATS.find((one) => typeof one !== "string" && one.value === value);
  switch (name) {
    case "motion":
      return `over ${drawn(value)}`;
    case "starts_at":
      return `starts ${typeof beat === "object" ? beat.words : value}`;
    case "ends_at":
      return `ends ${typeof beat === "object" ? beat.words : value}`;
    case "start_degree":
      return `from the ${drawn(value)}`;
    case "end_degree":
      return `to the ${drawn(value)}`;
    case "key":
      return `in ${drawn(KEYS[Number(value)] ?? "")}`;
    case "fewest":
      return `${value} notes or more`;
    case "most":
      return `${value} notes at most`;
    case "slowest":
      return `${value} a minute or faster`;
    case "fastest":
      return `${value} a minute or slower`;
    case "low_fret":
      return `from fret ${value}`;
    case "high_fret":
      return `up to fret ${value}`;
    case "thin":
      return `from string ${value}`;
    case "thick":
      return `to string ${value}`;
    case "words":
      return `“${value}”`;
    default:
      return value;
  }
};

export const narrow = (change: Partial<Narrowed>): void => {
  setBook((state) => ({ narrowed: { ...state.narrowed, ...change }, near: null }));
  void search();
};

/** What the search is narrowed to, each with a way to let it go; and how many were found. */
export function NarrowingRow({ onOpen }: { onOpen: () => void }) {
  const narrowed = useBook((state) => state.narrowed);
  const choices = useBook((state) => state.choices);
  const found = useBook((state) => state.found);
  const near = useBook((state) => state.near);
  const named = (name: keyof Narrowed, value: string): string =>
    name === "player" || name === "tune"
      ? (choices?.[name === "player" ? "players" : "tunes"].find(({ id }) => id === value)?.name ?? "")
      : words(name, value);
  const set = (Object.entries(narrowed) as [keyof Narrowed, string | boolean][]).filter(
    ([name, value]) => name !== "kept" && value !== "",
  );
  return (
    <div className="flex flex-wrap items-center gap-x-5 gap-y-1 text-[15px]">
      <fieldset className="flex gap-3">
        <legend className="sr-only">What is searched</legend>
        {([false, true] as const).map((kept) => (
          <label key={String(kept)} className="flex items-center gap-1.5">
            <input type="radio" name="kept" checked={narrowed.kept === kept} onChange={() => narrow({ kept })} />
            {kept ? "kept licks" : "every phrase"}
          </label>
        ))}
      </fieldset>
      {near === null &&
        set.map(([name, value]) => (
          <button
            key={name}
            type="button"
            className="font-bold hover:underline"
            aria-label={`Clear ${named(name, String(value))}`}
            onClick={() => narrow({ [name]: OPEN[name] })}
          >
            {named(name, String(value))} <span className="font-normal text-ink-2">×</span>
          </button>
        ))}
      <Button quiet size="small" className="px-0" onClick={onOpen}>
        Narrow it …
      </Button>
      <p role="status" aria-label="Found" className="ml-auto font-bold">
        {near === null ? (found?.says ?? "") : `${found?.says ?? ""} to ${near.name || `${near.tune}, ${near.place}`}`}
      </p>
    </div>
  );
}

export function NarrowingDialog({ onClose }: { onClose: () => void }) {
  const narrowed = useBook((state) => state.narrowed);
  const choices = useBook((state) => state.choices);
  useEffect(() => void loadChoices(), []);
  const field = (name: keyof Narrowed, label: string, kind: "text" | "number" = "number", placeholder = "") => (
    <Field
      placeholder={placeholder}
      label={label}
      type={kind}
      value={String(narrowed[name])}
      onChange={(event) => narrow({ [name]: event.target.value })}
    />
  );
  const choice = (name: keyof Narrowed, label: string, options: readonly Option[]) => (
    <div className="flex flex-col gap-1">
      <span className="font-bold text-ink-2">{label}</span>
      <Select
        label={label}
        options={options}
        value={String(narrowed[name])}
        onChoose={(value) => narrow({ [name]: value })}
      />
    </div>
  );
  const places = (words: string, some: readonly { id: string; name: string }[] | undefined): Option[] => [
    { value: "", words },
    ...(some ?? []).map(({ id, name }) => ({ value: id, words: name })),
  ];
  return (
    <Dialog open wide onOpenChange={(open) => !open && onClose()} title="Narrow the search">
      <div className="grid grid-cols-2 gap-x-5 gap-y-3 sm:grid-cols-3">
        {choice("player", "Player", places("any player", choices?.players))}
        {choice("tune", "Tune", places("any tune", choices?.tunes))}
        {field("motion", "Over the chords", "text", "I7 to IV7")}
        {choice("starts_at", "Starts", BEATS)}
        {choice("ends_at", "Ends", BEATS)}
        {choice("key", "Key", [
          { value: "", words: "any key" },
          ...KEYS.map((key, i) => ({ value: String(i), words: drawn(key) })),
        ])}
        {choice("start_degree", "From the degree", any("any degree", DEGREES))}
        {choice("end_degree", "To the degree", any("any degree", DEGREES))}
        {choice("technique", "Played with", any("anything", TECHNIQUES))}
        {choice("feel", "Feel", any("any feel", choices?.feels ?? []))}
        {field("slowest", "Tempo from")}
        {field("fastest", "Tempo to")}
        {field("fewest", "Notes from")}
        {field("most", "Notes to")}
        {field("low_fret", "Lowest fret from")}
        {field("high_fret", "Highest fret to")}
        {field("thin", "Strings from")}
        {field("thick", "Strings to")}
        {choice("tag", "Tag", any("any tag", choices?.tags ?? []))}
        {field("words", "In names and words", "text")}
      </div>
      <div className="mt-5 flex justify-end gap-2">
        <Button
          quiet
          onClick={() => {
            setBook({ narrowed: OPEN });
            void search();
          }}
        >
          Clear all
        </Button>
        <Button strong onClick={onClose}>
          Close
        </Button>
      </div>
    </Dialog>
  );
}
