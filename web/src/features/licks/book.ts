/** The lick book: what is searched, what was found, the one in hand, and where it is carried to. */
import { useLook } from "@/score/look";
import { create } from "zustand";
import { download } from "@/score/exporting";
import { api, Refusal, type Schemas, sentence, take } from "@/api/client";

export type Found = Schemas["FoundLicks"];
export type Lick = Schemas["FoundLick"];
export type Carried = Schemas["CarriedView"];
export type Options = Schemas["OptionsView"];
export type There = Schemas["LickThere"];
export type Meant = Schemas["LickMeant"];
export type Narrowing = {
  readonly kept: boolean;
  readonly motion: string;
  readonly starts_at: string;
  readonly ends_at: string;
  readonly start_degree: string;
  readonly end_degree: string;
  readonly key: string;
  readonly fewest: string;
  readonly most: string;
  readonly slowest: string;
  readonly fastest: string;
  readonly feel: string;
  readonly technique: string;
  readonly low_fret: string;
  readonly high_fret: string;
  readonly thin: string;
  readonly thick: string;
  readonly player: string;
  readonly tune: string;
  readonly tag: string;
  readonly words: string;
};
export const OPEN: Narrowing = {
  kept: false,
  motion: "",
  starts_at: "",
  ends_at: "",
  start_degree: "",
  end_degree: "",
  key: "",
  fewest: "",
  most: "",
  slowest: "",
  fastest: "",
  feel: "",
  technique: "",
  low_fret: "",
  high_fret: "",
  thin: "",
  thick: "",
  player: "",
  tune: "",
  tag: "",
  words: "",
};

/** A lick of a quote that is being put together; `bar` empty: as soon as there is room. */
export type QuoteItem = { readonly key: number; readonly name: string; readonly which: Meant; readonly bar: string };

const NOWHERE: There = { direction: "nearest" };

export type Book = {
  readonly text: string;
  readonly narrowed: Narrowing;
  readonly found: Found | null;
  readonly near: Lick | null; // the one whose nearest are shown
  readonly choices: Schemas["Choices"] | null;
  readonly at: number; // the result in hand
  readonly trouble: string | null;
  readonly there: There;
  readonly carried: Carried | null;
  readonly drawn: There; // where the carried one is; not there yet when something is refused
  readonly twelve: (Schemas["Twelve"] & { readonly order: Schemas["Order"] }) | null;
  readonly options: Options | null;
  readonly refused: Schemas["Problem"] | null;
  readonly part: "all" | "skeleton" | "ornament";
  readonly quote: readonly QuoteItem[];
  readonly removed: Removed | null; // the lick that was removed last
  readonly twice: { readonly file: File; readonly says: string } | null; // a lick document that is here already
};
export const useBook = create<Book>(() => ({
  text: "",
  narrowed: OPEN,
  found: null,
  near: null,
  choices: null,
  at: 0,
  trouble: null,
  there: NOWHERE,
  carried: null,
  drawn: NOWHERE,
  twelve: null,
  options: null,
  refused: null,
  part: "all",
  quote: [],
  removed: null,
  twice: null,
}));
export const bookNow = useBook.getState;
export const setBook = useBook.setState;

export const PAGE = 20;
let turn = 0;
let shown = ""; // the search that the results answer
let chosen = 0; // the search under way when a person last took a result in hand

// Pairs come as lists of any length in the client's types of answers.
const foundOf = (sent: unknown): Found => sent as Found;
const lickOf = (sent: unknown): Lick => sent as Lick;

/** What of the narrowing says something, as the server asks for it. */
export const asked = (narrowed: Narrowing): Record<string, string | boolean> =>
  Object.fromEntries(Object.entries(narrowed).filter(([, value]) => value !== "" && value !== false));

/** What the search finds, all of it, as a table. */
export const saveTable = (): void => {
  const { text, narrowed } = bookNow();
  const said = Object.entries(asked(narrowed)).map(([name, value]) => [name, String(value)]);
  const query = new URLSearchParams([["text", text], ...said, ...Object.entries(useLook.getState().reader)]);
  location.assign(`/api/licks/table.csv?${query.toString()}`);
};

/** The same lick, whatever the index calls it by now. */
const same = (one: Lick, other: Lick): boolean =>
  one.lick === other.lick && one.solo === other.solo && one.first === other.first && one.last === other.last;

/** Search anew, or fetch more of what was found; an answer that a newer search has overtaken is dropped. */
export const search = async (more = false): Promise<void> => {
  const own = (turn += 1);
  const { text, narrowed, found, near } = bookNow();
  try {
    const next =
      near !== null
        ? foundOf(await take(api.GET("/api/licks/near/{span}", { params: { path: { span: near.span } } })))
        : foundOf(
            await take(
              api.GET("/api/licks", {
                params: { query: { text, ...asked(narrowed), skip: more ? (found?.licks.length ?? 0) : 0 } },
              }),
            ),
          );
    if (own !== turn) return;
    const licks = more ? [...(found?.licks ?? []), ...next.licks] : next.licks;
    // The same search once more (something was indexed meanwhile), or one that somebody did not wait for: what is in
    // hand stays there.
    const search = JSON.stringify([text, narrowed, near?.span]);
    const hand = inHand();
    const stays =
      (search === shown || chosen === own) && hand !== null ? licks.findIndex((one) => same(one, hand)) : -1;
    shown = search;
    setBook({ found: { ...next, licks }, trouble: null, ...(more ? {} : { at: Math.max(0, stays) }) });
    if (!more && stays < 0) await takeInHand(0);
  } catch (fault) {
    if (own === turn) setBook({ trouble: sentence(fault) });
  }
};

/** The search and what narrows it, as they stand in the address. */
export const inAddress = ({ text, narrowed }: Pick<Book, "text" | "narrowed">): URLSearchParams =>
  new URLSearchParams([
    ...(text === "" ? [] : [["text", text]]),
    ...Object.entries(asked(narrowed)).map(([name, value]) => [name, String(value)]),
  ] as [string, string][]);

/** Open the book on the search of an address; an address without one leaves the book as it is. */
export const openAt = (params: URLSearchParams): void => {
  if (params.size === 0) return;
  const own = Object.keys(OPEN).flatMap((name) => {
    const value = params.get(name);
    return value === null ? [] : [[name, name === "kept" ? value === "true" : value] as const];
  });
  setBook({ text: params.get("text") ?? "", near: null, narrowed: { ...OPEN, ...Object.fromEntries(own) } });
  void search();
};

export const loadChoices = async (): Promise<void> => {
  try {
    setBook({ choices: await take(api.GET("/api/licks/choices")) });
  } catch (fault) {
    setBook({ trouble: sentence(fault) });
  }
};

export const inHand = (): Lick | null => {
  const { found, at } = bookNow();
  return found?.licks[at] ?? null;
};

/** How the server is told which notes are meant. */
export const meant = (lick: Lick): Meant =>
  lick.lick !== null
    ? { lick: lick.lick, first: "", last: "" }
    : { solo: lick.solo, first: lick.first, last: lick.last };

/** A person takes a result in hand. */
export const choose = (at: number): Promise<void> => {
  chosen = turn;
  return takeInHand(at);
};

/** A result in hand lies as it was written. */
const takeInHand = async (at: number): Promise<void> => {
  setBook({ at, there: NOWHERE, carried: null, twelve: null, options: null, refused: null, part: "all" });
  const lick = inHand();
  if (lick === null) return;
  try {
    const body = meant(lick);
    const [options, carried] = await Promise.all([
      take(api.POST("/api/licks/options", { body: { which: body, there: NOWHERE } })),
      take(api.POST("/api/licks/anywhere", { params: {}, body: { which: body, there: NOWHERE } })),
    ]);
    if (inHand()?.span === lick.span)
      setBook({ options: options as unknown as Options, carried: carried as unknown as Carried, drawn: NOWHERE });
  } catch (fault) {
    if (inHand()?.span === lick.span) setBook({ trouble: sentence(fault) });
  }
};

/** Carry the one in hand elsewhere; what cannot be done says why, and what can be done instead. */
export const carry = async (change: Partial<There>): Promise<void> => {
  const lick = inHand();
  if (lick === null) return;
  const there = { ...bookNow().there, ...change };
  setBook({ there, twelve: null });
  const body = { which: meant(lick), there };
  const [answer, options] = await Promise.all([
    api.POST("/api/licks/anywhere", { params: {}, body }),
    api.POST("/api/licks/options", { body }),
  ]);
  if (bookNow().there !== there) return;
  if (options.data !== undefined) setBook({ options: options.data as unknown as Options });
  if (answer.data !== undefined) setBook({ carried: answer.data as unknown as Carried, drawn: there, refused: null });
  else setBook({ refused: answer.error });
};

/** What a refusal offers instead. */
export const insteadOf = ({ where }: Schemas["Problem"]): Partial<There> | null => {
  const { position, first_string, last_string, family, direction, quality } = where;
  if (direction == null) return null;
  const strings = first_string == null || last_string == null ? null : [Number(first_string), Number(last_string)];
  return { position, strings, family, direction, quality } as Partial<There>;
};

/** The formats that a lick goes out as where it lies: name, ending, what it is called. */
export const FORMATS = [
  ["document", ".json", "document (JSON)"],
  ["musicxml", ".musicxml", "MusicXML"],
  ["midi", ".mid", "MIDI"],
  ["jams", ".jams", "JAMS"],
  ["tab", ".txt", "text tablature"],
] as const;

export const exportHere = async (format: string, ending: string): Promise<void> => {
  const lick = inHand();
  if (lick === null) return;
  try {
    const body = { which: meant(lick), there: bookNow().drawn, format };
    const file = await take(api.POST("/api/licks/document/elsewhere", { params: {}, body, parseAs: "blob" }));
    download(`${lick.name || "lick"}${ending}`, file, "");
  } catch (fault) {
    setBook({ trouble: sentence(fault) });
  }
};

export const allTwelve = async (order: Schemas["Order"]): Promise<void> => {
  const lick = inHand();
  if (lick === null) return;
  try {
    const body = { which: meant(lick), there: bookNow().there, order };
    const twelve = await take(api.POST("/api/licks/twelve", { params: {}, body }));
    setBook({ twelve: { ...(twelve as unknown as Schemas["Twelve"]), order } });
  } catch (fault) {
    setBook({ trouble: sentence(fault) });
  }
};

export type Said = { readonly name: string; readonly tags: readonly string[]; readonly words: string };

/** Keep a lick under an id, or say something else of it: what went wrong, or null. */
export const keep = async (lick: Lick, id: string, { name, tags, words }: Said): Promise<string | null> => {
  const said = { name, tags: [...tags], words };
  try {
    const kept = lickOf(
      lick.lick === null || lick.version === null
        ? await take(
            api.POST("/api/licks", {
              params: {},
              body: { id, solo: lick.solo ?? "", first: lick.first, last: lick.last, ...said },
            }),
          )
        : await take(
            api.PUT("/api/licks/{lick_id}", {
              params: { path: { lick_id: lick.lick } },
              body: { version: lick.version, ...said },
            }),
          ),
    );
    const { found } = bookNow();
    if (found !== null)
      setBook({
        found: { ...found, licks: found.licks.map((one) => (same(one, lick) ? { ...kept, says: one.says } : one)) },
        trouble: null,
      });
    await loadChoices();
    return null;
  } catch (fault) {
    return sentence(fault);
  }
};

type Removed = Schemas["RemovedLick"];

/** Remove the lick in hand; it can be put back at once, or for 30 days on the shelf. */
export const remove = async (): Promise<void> => {
  const lick = inHand();
  if (lick?.lick == null || lick.version === null) return;
  const { lick: id, version, name } = lick;
  try {
    await take(api.POST("/api/licks/{lick_id}/remove", { params: { path: { lick_id: id } }, body: { version } }));
    setBook({ removed: { id, version: version + 1, name } });
    await search();
  } catch (fault) {
    setBook({ trouble: sentence(fault) });
  }
};

/** The lick that was removed last is in the book again. */
export const putBack = async (): Promise<void> => {
  const { removed } = bookNow();
  if (removed === null) return;
  try {
    const { id, version } = removed;
    await take(api.POST("/api/licks/{lick_id}/restore", { params: { path: { lick_id: id } }, body: { version } }));
    setBook({ removed: null });
    await search();
  } catch (fault) {
    setBook({ trouble: sentence(fault) });
  }
};

/** Import a lick; one that is in the book already is asked about first. */
export const importLick = async (file: File, again = false): Promise<void> => {
  const body = new FormData();
  body.append("file", file);
  setBook({ twice: null });
  try {
    const params = { query: { again, id: crypto.randomUUID() } };
    await take(
      api.POST("/api/licks/document", { params, body: body as never, bodySerializer: (form) => form as never }),
    );
    setBook({ text: "", near: null, narrowed: { ...OPEN, kept: true } });
    await search();
  } catch (fault) {
    if (fault instanceof Refusal && fault.problem.code === "lick-known")
      setBook({ twice: { file, says: fault.message } });
    else setBook({ trouble: sentence(fault) });
  }
};

let items = 0;
export const addToQuote = (lick: Lick): void => {
  const name = lick.name || `${lick.tune}, ${lick.place}`;
  items += 1;
  setBook({ quote: [...bookNow().quote, { key: items, name, which: meant(lick), bar: "" }] });
};
