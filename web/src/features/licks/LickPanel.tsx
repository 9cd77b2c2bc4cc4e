import { type ReactNode, useState } from "react";
import { LickFigure } from "@/score/LickFigure";
import { useDraft } from "@/ui/drafts";
import { InputDialog } from "@/ui/InputDialog";
import { Area, Button, Field, Menu } from "@/ui/parts";
import { Select } from "@/ui/Select";
import { drawn } from "@/ui/signs";
import {
  addToQuote,
  allTwelve,
  type Book,
  carry,
  exportHere,
  FORMATS,
  insteadOf,
  keep,
  type Lick,
  meant,
  remove,
  setBook,
  type There,
  useBook,
} from "./book";
import { hearLick } from "@/score/hearing";
import { PlayButton } from "@/score/PlayButton";
import { useWidth } from "@/ui/useWidth";

const KEYS = ["C", "Db", "D", "Eb", "E", "F", "F#", "G", "Ab", "A", "Bb", "B"];
const FEELS = ["straight", "swing", "triplets"] as const;
const TUNINGS = ["standard", "half step down", "drop D", "open G", "open D", "D A D G A D", "all fourths", "bass six"];
const PARTS: readonly (readonly [Book["part"], string])[] = [
  ["all", "all of it"],
  ["skeleton", "skeleton"],
  ["ornament", "ornament"],
];

type Props = {
  naming: boolean;
  onNaming: (on: boolean) => void;
  onOpen: (lick: Lick) => void;
  onQuote: () => void;
};

/** The lick in hand: what is said of it, and where it can go. */
export function LickPanel({ naming, onNaming, onOpen, onQuote }: Props) {
  const lick = useBook((state) => state.found?.licks[state.at] ?? null);
  const [box, width] = useWidth(344);
  const carried = useBook((state) => state.carried);
  const part = useBook((state) => state.part);
  if (lick === null) return <aside className="border-l border-rule bg-sheet max-lg:hidden" />;
  const lone = carried?.drawing ?? lick.drawing;
  return (
    <aside
      aria-label="The lick in hand"
      className="flex min-h-0 flex-col gap-3 overflow-y-auto border-l border-rule bg-sheet px-6 py-5 max-lg:border-l-0 max-lg:border-t"
    >
      <header>
        <h2 className="font-naming text-[22px] font-semibold leading-7">{lick.name || "Without a name"}</h2>
        <p className="text-[14px] text-ink-2">
          {[lick.player, lick.tune, lick.place].filter(Boolean).join(" · ")}
          {lick.tags.map((tag) => (
            <span key={tag} className="ml-2 border border-rule-2 px-1.5">
              {tag}
            </span>
          ))}
        </p>
        {lick.words !== "" && <p className="mt-1 leading-snug">{lick.words}</p>}
        {lick.frozen !== "" && (
          <p className="mt-1 font-bold text-doubt">
            Frozen: {lick.frozen}. It keeps its last notes{lick.has_sound ? " and its sound" : ""}.
          </p>
        )}
      </header>
      <span ref={box} className="block">
        <LickFigure
          drawing={lone}
          width={width}
          {...(part === "all" ? {} : { pale: (one) => one.target !== (part === "skeleton") })}
        />
      </span>
      <p className="-mt-2 text-[14px]" aria-label="Where it is" role="status">
        {carried === null || carried.says.length === 0
          ? `${drawn(carried?.key ?? "")}${lick.motion === "" ? "" : ` · ${drawn(lick.motion)}`}`
          : drawn([carried.key, ...carried.says].filter(Boolean).join(" · "))}
      </p>
      <Refused />
      <div className="flex flex-wrap items-center gap-2">
        <HearThere lick={lick} />
        <Button size="small" onClick={() => onNaming(true)}>
          {lick.lick === null ? "Keep it" : "Name, tags, words"}
        </Button>
        <Button
          size="small"
          onClick={() => {
            addToQuote(lick);
            onQuote();
          }}
        >
          Quote it …
        </Button>
        {lick.solo !== null && (
          <Button size="small" onClick={() => onOpen(lick)}>
            Open
          </Button>
        )}
        <Menu
          label="more"
          items={[
            ...FORMATS.map(([format, ending, words]) => ({
              name: `Export as it lies here: ${words}`,
              act: () => void exportHere(format, ending),
            })),
            { name: "Print a sheet", act: () => location.assign(`/handout/lick?${sheetQuery(lick)}`) },
            ...(lick.lick === null
              ? []
              : [
                  {
                    name: "Export as written",
                    act: () => location.assign(`/api/licks/${lick.lick ?? ""}/document.json`),
                  },
                  { name: "Remove", act: () => void remove() },
                ]),
          ]}
        />
      </div>
      <Anywhere />
      <Twelve lick={lick} />
      {naming && <Naming lick={lick} onClose={() => onNaming(false)} />}
    </aside>
  );
}

function Refused() {
  const refused = useBook((state) => state.refused);
  if (refused === null) return null;
  const instead = insteadOf(refused);
  return (
    <div role="alert" className="border-l-4 border-doubt pl-3 text-[15px]">
      <p>{drawn(refused.title)}</p>
      {instead !== null && (
        <Button size="small" className="mt-1" onClick={() => void carry(instead)}>
          Do that
        </Button>
      )}
    </div>
  );
}

const sheetQuery = (lick: Lick): string => {
  const which = Object.entries(meant(lick)).filter((entry): entry is [string, string] => typeof entry[1] === "string");
  return new URLSearchParams(which.filter(([, value]) => value !== "")).toString();
};

const UNDER = {
  alone: "alone",
  chords: "over its chords",
  vamp: "with a vamp",
  one: "vamp over one chord",
} as const;

function HearThere({ lick }: { lick: Lick }) {
  const there = useBook((state) => state.drawn);
  const part = useBook((state) => state.part);
  const [under, setUnder] = useState<keyof typeof UNDER>("alone");
  const [over, setOver] = useState("C7");
  const sound = {
    chords: under === "chords",
    vamp: under === "vamp" || under === "one",
    over: under === "one" ? over : "",
  };
  return (
    <>
      <PlayButton
        small
        sound={`there ${lick.span}`}
        label="Hear it there"
        onPlay={() => hearLick(`there ${lick.span}`, { which: meant(lick), there, part, ...sound })}
      />
      <Select
        small
        label="Heard"
        options={Object.entries(UNDER).map(([value, words]) => ({ value, words }))}
        value={under}
        onChoose={(value) => setUnder(value as keyof typeof UNDER)}
      />
      {under === "one" && (
        <input
          aria-label="Chord of the vamp"
          className="h-8 w-20 rounded-[4px] border border-rule-2 bg-sheet px-2"
          value={over}
          onChange={(event) => setOver(event.target.value)}
        />
      )}
    </>
  );
}

const Row = ({ name, children }: { name: string; children: ReactNode }) => (
  <div role="group" aria-label={name} className="grid grid-cols-[74px_minmax(0,1fr)] items-baseline gap-x-3">
    <span className="text-[15px] text-ink-2">{name}</span>
    <span className="flex flex-wrap items-baseline gap-x-2.5 gap-y-0.5">{children}</span>
  </div>
);

function Pick({ on, onPick, children }: { on: boolean; onPick: () => void; children: ReactNode }) {
  return (
    <button
      type="button"
      aria-pressed={on}
      onClick={onPick}
      className={`min-w-6 text-[16px] leading-6 underline-offset-4 hover:underline ${on ? "font-bold underline decoration-2" : ""}`}
    >
      {children}
    </button>
  );
}

/** Key, place, strings, shapes, chords, tuning and feel: each one click, all of them at once. */
function Anywhere() {
  const there = useBook((state) => state.there);
  const options = useBook((state) => state.options);
  const part = useBook((state) => state.part);
  const order = useBook((state) => state.twelve?.order);
  if (options === null) return null;
  const pick = <Name extends keyof There>(name: Name, value: There[Name]) =>
    void carry({ [name]: there[name] === value ? null : value });
  const same = (one: readonly number[] | null | undefined, other: readonly number[]) =>
    one?.[0] === other[0] && one?.[1] === other[1];
  return (
    <section aria-label="To anywhere" className="flex flex-col gap-1.5 border-t border-rule pt-3">
      <Row name="key">
        {options.key === "" ? (
          <span className="text-[15px] text-ink-2">not known: set it in the chart</span>
        ) : (
          KEYS.map((key) => (
            <Pick
              key={key}
              on={(there.key ?? options.key) === key}
              onPick={() => void carry({ key: key === options.key ? null : key })}
            >
              {drawn(key)}
            </Pick>
          ))
        )}
      </Row>
      {there.key != null && (
        <Row name="way">
          {(["nearest", "up", "down"] as const).map((way) => (
            <Pick key={way} on={there.direction === way} onPick={() => void carry({ direction: way })}>
              {way}
            </Pick>
          ))}
        </Row>
      )}
      <Row name="place">
        {options.positions.map((position) => (
          <Pick key={position} on={there.position === position} onPick={() => pick("position", position)}>
            {position === 0 ? "open" : position}
          </Pick>
        ))}
        {options.positions.length === 0 && (
          <span className="text-[15px] text-ink-2">no one position holds all of it</span>
        )}
      </Row>
      <Row name="strings">
        {options.string_sets.map((set) => (
          <Pick
            key={set.join("-")}
            on={same(there.strings, set)}
            onPick={() => void carry({ strings: same(there.strings, set) ? null : [set[0], set[1]] })}
          >
            {set[0]}–{set[1]}
          </Pick>
        ))}
      </Row>
      {options.families.length > 0 && (
        <Row name="shape">
          {options.families.map((family) => (
            <Pick key={family} on={there.family === family} onPick={() => pick("family", family)}>
              {family}
            </Pick>
          ))}
        </Row>
      )}
      <Row name="feel">
        {FEELS.map((feel) => (
          <Pick key={feel} on={there.feel === feel} onPick={() => pick("feel", feel)}>
            {feel}
          </Pick>
        ))}
      </Row>
      <Row name="over">
        {options.qualities.map((quality) => (
          <Pick
            key={quality}
            on={there.quality === quality}
            onPick={() => pick("quality", quality as NonNullable<There["quality"]>)}
          >
            {quality}
          </Pick>
        ))}
      </Row>
      <Row name="tuning">
        <Select
          small
          label="Tuning"
          options={[{ value: "", words: "as written" }, ...TUNINGS]}
          value={there.tuning ?? ""}
          onChoose={(tuning) => void carry({ tuning: tuning === "" ? null : tuning })}
        />
      </Row>
      <Row name="show">
        {PARTS.map(([name, word]) => (
          <Pick key={name} on={part === name} onPick={() => setBook({ part: name })}>
            {word}
          </Pick>
        ))}
      </Row>
      <Row name="all keys">
        <Pick on={order === "fourths"} onPick={() => void allTwelve("fourths")}>
          by fourths
        </Pick>
        <Pick on={order === "half steps"} onPick={() => void allTwelve("half steps")}>
          by half steps
        </Pick>
      </Row>
    </section>
  );
}

function Twelve({ lick }: { lick: Lick }) {
  const twelve = useBook((state) => state.twelve);
  const there = useBook((state) => state.there);
  if (twelve === null) return null;
  return (
    <section aria-label="All twelve keys" className="border-t border-rule pt-3">
      <div className="flex items-center gap-2">
        <PlayButton
          small
          sound={`twelve ${lick.span}`}
          label="Hear all keys in a row"
          onPlay={() =>
            hearLick(`twelve ${lick.span}`, {
              which: meant(lick),
              there,
              twelve: twelve.order,
              clicks: true,
              chords: true,
            })
          }
        />
        <h3 className="font-bold">
          {twelve.keys.length} keys in a row, by {twelve.order}
        </h3>
      </div>
      {twelve.keys.map((one) => (
        <div key={one.key} className="mt-2">
          <p className="text-[14px] text-ink-2">{drawn([one.key, ...one.says].join(" · "))}</p>
          <LickFigure drawing={one.drawing} width={344} />
        </div>
      ))}
      {twelve.faults.map((fault) => (
        <p key={fault} className="mt-2 text-[14px] font-bold text-doubt">
          {drawn(fault)}
        </p>
      ))}
    </section>
  );
}

function Naming({ lick, onClose }: { lick: Lick; onClose: () => void }) {
  const [id] = useState(() => lick.lick ?? crypto.randomUUID());
  const draft = useDraft(`lick ${lick.lick ?? `${lick.solo ?? ""} ${lick.first} ${lick.last}`}`, {
    name: lick.name,
    tags: lick.tags.join(", "),
    words: lick.words,
  });
  const { name, tags, words } = draft.value;
  const submit = () => keep(lick, id, { name, tags: tags.split(",").filter((tag) => tag.trim() !== ""), words });
  return (
    <InputDialog
      title={lick.lick === null ? "Keep it as a lick" : "Name, tags, words"}
      submit={lick.lick === null ? "Keep" : "Save"}
      draft={draft}
      onSubmit={submit}
      onClose={onClose}
    >
      <Field label="Name" value={name} autoFocus onChange={(event) => draft.set({ name: event.target.value })} />
      <Field
        label="Tags, with commas between"
        value={tags}
        onChange={(event) => draft.set({ tags: event.target.value })}
      />
      <Area label="What you say of it" value={words} onChange={(event) => draft.set({ words: event.target.value })} />
      {lick.lick === null && (
        <p className="text-[14px] text-ink-2">It follows later corrections of the solo and plays its own sound.</p>
      )}
    </InputDialog>
  );
}
