/**
 * A page without a screen: the page's own store, writing and outbox in Node, told what to do line by line on standard
 * input and answering on standard output. tests/walk/ drives it against a real server over a line that delays, doubles
 * and loses what goes over it.
 */
import "fake-indexeddb/auto";
import { createInterface } from "node:readline";

import type { LeftOut } from "@/score/outbox";

type Command = { readonly do: string } & Readonly<Record<string, unknown>>;

// -- what a browser has and Node has not ----------------------------------------------------------------------------

const base = process.argv[2] ?? "";
let seed = Number(process.argv[3] ?? 1);
const HURRY = 20; // waits of the page take so many times less here
const random = (): number => {
  // mulberry32
  seed = (seed + 0x6d2b79f5) | 0;
  let mixed = Math.imul(seed ^ (seed >>> 15), 1 | seed);
  mixed = (mixed + Math.imul(mixed ^ (mixed >>> 7), 61 | mixed)) ^ mixed;
  return ((mixed ^ (mixed >>> 14)) >>> 0) / 4_294_967_296;
};
const pause = (ms: number): Promise<void> =>
  new Promise((wake) => {
    plainTimeout(wake, ms);
  });
const plainTimeout = setTimeout;
globalThis.setTimeout = ((run: () => void, ms = 0, ...rest: unknown[]) =>
  plainTimeout(run, ms / HURRY, ...rest)) as typeof setTimeout;

Object.defineProperty(globalThis, "matchMedia", { value: () => ({ matches: false }) });
const kept = new Map<string, string>();
Object.defineProperty(globalThis, "localStorage", {
  value: new Proxy(
    {
      getItem: (key: string) => kept.get(key) ?? null,
      setItem: (key: string, text: string) => {
        kept.set(key, text);
      },
      removeItem: (key: string) => {
        kept.delete(key);
      },
    },
    { ownKeys: () => [...kept.keys()], getOwnPropertyDescriptor: () => ({ enumerable: true, configurable: true }) },
  ),
});

let faulty = false;
const lost = { requests: 0, sent: 0, answers: 0, doubled: 0 };
const plainFetch = globalThis.fetch;
const PlainRequest = globalThis.Request;
globalThis.Request = class extends PlainRequest {
  constructor(input: string | URL | Request, init?: RequestInit) {
    super(typeof input === "string" ? new URL(input, base) : input, init);
  }
};
globalThis.fetch = async (input: string | URL | Request, init?: RequestInit): Promise<Response> => {
  const request = new Request(input as string, init);
  if (!faulty) return plainFetch(request);
  lost.requests += 1;
  const fate = random();
  await pause(random() * 15);
  if (fate < 0.08) {
    lost.sent += 1;
    throw new TypeError("lost on the way there");
  }
  if (fate < 0.2 && request.method === "POST") {
    lost.doubled += 1;
    void plainFetch(request.clone()).then(
      (answer) => answer.arrayBuffer(),
      () => undefined,
    );
  }
  const answer = await plainFetch(request);
  await pause(random() * 15);
  if (fate > 0.9 && !request.url.includes("/pins")) {
    lost.answers += 1;
    await answer.arrayBuffer();
    throw new TypeError("lost on the way back");
  }
  return answer;
};

globalThis.EventSource = class {
  onmessage: ((event: { data: string }) => void) | null = null;
  onopen: (() => void) | null = null;
  onerror: (() => void) | null = null;
  private readonly stop = new AbortController();
  constructor(path: string) {
    void this.listen(new URL(path, base));
  }
  private async listen(url: URL): Promise<void> {
    try {
      const answer = await plainFetch(url, { signal: this.stop.signal });
      this.onopen?.();
      const decoder = new TextDecoder();
      let text = "";
      for await (const part of answer.body as unknown as AsyncIterable<Uint8Array>) {
        text += decoder.decode(part, { stream: true });
        for (let end = text.indexOf("\n\n"); end >= 0; end = text.indexOf("\n\n")) {
          const data = text.slice(0, end).replace(/^data: /, "");
          text = text.slice(end + 2);
          if (!data.startsWith(":")) this.onmessage?.({ data });
        }
      }
    } catch {
      this.onerror?.();
    }
  }
  close(): void {
    this.stop.abort();
  }
} as unknown as typeof EventSource;

// -- the page -------------------------------------------------------------------------------------------------------

const { atHand, noteInHand, pick, setCursor } = await import("@/score/cursor");
const { bounds, openDocument } = await import("@/score/document");
const { setEntry, setLatch } = await import("@/score/entry");
const { useSaving } = await import("@/score/saving");
const { inOrder } = await import("@/score/elements");
const edits = await import("@/score/edits");
const { slideInto } = await import("@/score/shaping");
const { askSpan, cutPhrase, renamePhrase } = await import("@/score/phrases");
const { act, closeSolo, dropLeftOut, inTurn, openSolo, redo, request, sendAgain, tryAgain, undo } =
  await import("@/score/sending");
const { shapeBy, TECHNIQUES } = await import("@/score/techniques");
const { stepLevel } = await import("@/score/loudness");
const { writeAt } = await import("@/features/notes/writing");
const { api, take } = await import("@/api/client");
const outbox = await import("@/score/outbox");

const saving = useSaving.getState;
const notes = () => inOrder(openDocument().elements.notes);
/** The note that a number picks out of those that are there. */
const chosen = (at: unknown) => {
  const all = notes();
  return all[Number(at) % Math.max(1, all.length)];
};
const upset: string[] = [];
process.on("unhandledRejection", (fault) => {
  upset.push(fault instanceof Error ? (fault.stack ?? fault.message) : String(fault));
});

/** Every act that was ever left out of the open solo, those that were dropped or sent again since among them. */
let everLeftOut: LeftOut[] = [];
useSaving.subscribe(({ leftOut }) => {
  everLeftOut.push(...leftOut.filter((one) => !everLeftOut.some(({ act }) => act === one.act)));
});

const withNote = (
  at: unknown,
  build: (note: NonNullable<ReturnType<typeof chosen>>) => Parameters<typeof act>[0],
): void =>
  inTurn(() => {
    const note = chosen(at);
    if (note !== undefined) {
      pick(note);
      act(build(note));
    }
  });

const settled = async (): Promise<void> => {
  for (let tries = 0; tries < 4_000; tries += 1) {
    const { sending } = saving();
    const { bench } = openDocument();
    if (bench !== null && sending === "saved" && (await outbox.waiting(bench.solo_id)).length === 0) return;
    if (sending === "refused") tryAgain();
    await pause(5);
  }
  throw new Error(`it does not settle: ${JSON.stringify(saving())}`);
};

const COMMANDS: Record<string, (command: Command) => Promise<unknown> | void> = {
  open: async ({ solo }) => {
    closeSolo();
    everLeftOut = [];
    await openSolo(solo as string);
  },
  faults: ({ on }) => {
    faulty = on === true;
  },
  cursor: ({ tick, string }) => inTurn(() => setCursor({ tick: Number(tick), string: Number(string) })),
  length: ({ index }) => inTurn(() => setEntry({ length: Number(index) })),
  latch: ({ name }) => inTurn(() => setLatch(name as "join")),
  write: ({ string, fret, join }) =>
    inTurn(() => writeAt({ string: Number(string), fret: Number(fret) }, join === true)),
  rest: ({ ticks }) =>
    inTurn(() => {
      const { tick } = atHand().cursor;
      if (tick < bounds()[1]) act(edits.writeRest(openDocument().elements, tick, Number(ticks)));
    }),
  delete: ({ at }) => withNote(at, (note) => edits.removeNotes(openDocument().elements, [note.id])),
  "delete all": ({ from, to }) =>
    inTurn(() =>
      act(
        edits.removeNotes(
          openDocument().elements,
          notes()
            .filter((note) => note.tick >= Number(from) && note.tick < Number(to))
            .map((note) => note.id),
        ),
      ),
    ),
  lengthen: ({ at, ticks }) => withNote(at, (note) => edits.setLength(openDocument().elements, note, Number(ticks))),
  move: ({ at, by }) =>
    withNote(at, (note) => edits.moveInTime(openDocument().elements, note, note.tick + Number(by), bounds())),
  fret: ({ at, by }) =>
    withNote(at, (note) => edits.moveFret(note, Number(by), openDocument().bench?.tables.highest_fret ?? 22)),
  join: ({ at }) => withNote(at, (note) => edits.join(openDocument().elements, note)),
  slide: ({ at }) => withNote(at, (note) => slideInto(openDocument().elements, note)),
  shape: ({ at, technique }) =>
    withNote(at, (note) => {
      const tables = openDocument().bench?.tables;
      return tables === undefined
        ? null
        : shapeBy(TECHNIQUES[Number(technique) % TECHNIQUES.length]?.name ?? "", note, tables);
    }),
  phrase: ({ from, to }) => inTurn(() => act(cutPhrase(openDocument().elements, Number(from), Number(to), "a phrase"))),
  "drop phrase": ({ at }) =>
    inTurn(() => {
      const all = Object.values(openDocument().elements.phrases);
      const one = all[Number(at) % Math.max(1, all.length)];
      if (one !== undefined) act(renamePhrase(one, null));
    }),
  question: ({ at }) =>
    withNote(at, (note) => askSpan({ from: note.tick, to: note.tick + note.ticks }, [note], "which string?", [])),
  louder: ({ tick }) => inTurn(() => act(stepLevel(openDocument().elements, Number(tick), "louder", null))),
  pin: ({ at }) => {
    const note = chosen(at);
    if (note !== undefined)
      void request((solo_id) =>
        take(
          api.PUT("/api/solos/{solo_id}/pins", {
            params: { path: { solo_id } },
            body: { notes: [note.id], pinned: true },
          }),
        ),
      );
  },
  undo: () => {
    void undo();
  },
  redo: () => {
    void redo();
  },
  reload: async () => {
    const solo = openDocument().bench?.solo_id ?? "";
    closeSolo();
    for (;;) {
      try {
        await openSolo(solo);
        return;
      } catch {
        await pause(5);
      }
    }
  },
  reread: () => {
    const solo = openDocument().bench?.solo_id ?? "";
    void openSolo(solo).catch(() => undefined);
  },
  "try left out": ({ over }) => {
    const [one] = saving().leftOut;
    if (one !== undefined) sendAgain(one, over === true);
  },
  "drop left out": async () => {
    const [one] = saving().leftOut;
    if (one !== undefined) await dropLeftOut(one);
  },
  settle: settled,
  state: async () => {
    const { bench, elements, versions } = openDocument();
    const solo = bench?.solo_id ?? "";
    return {
      elements,
      versions,
      violations: bench?.violations,
      upset,
      lost,
      at: noteInHand()?.id ?? null,
      waiting: (await outbox.waiting(solo)).map((edit) => edit.id),
      leftOut: everLeftOut.map((one) => ({
        ...one,
        edits: one.edits.map((edit) => ({ id: edit.id, label: edit.label, changes: edit.changes })),
      })),
    };
  },
};

for await (const line of createInterface({ input: process.stdin })) {
  const command = JSON.parse(line) as Command;
  let answer: unknown;
  try {
    answer = { done: (await COMMANDS[command.do]?.(command)) ?? null };
  } catch (fault) {
    answer = { failed: fault instanceof Error ? (fault.stack ?? fault.message) : String(fault) };
  }
  if (faulty) await pause(random() * 12); // a person is no faster
  process.stdout.write(`${JSON.stringify(answer)}\n`);
}
process.exit(0);
