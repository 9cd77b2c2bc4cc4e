import { type ReactNode, useCallback, useEffect, useState } from "react";
import { Link } from "react-router";
import { api, type Schemas, sentence, take } from "@/api/client";
import { InputDialog } from "@/ui/InputDialog";
import { useFile } from "@/ui/useFile";
import { Button, Field, Key, Menu } from "@/ui/parts";
import { Select } from "@/ui/Select";
import { Miniature } from "./Miniature";
import { inOrder, named, openOver, type Order, ORDERS, type Solo } from "./shelf";
import { WhereItLeads } from "./WhereItLeads";

type Removed = Schemas["RemovedLick"];
type Props = { onBring: (file: File | "none") => void; importing: ReactNode };

const ORDER = "usagi.shelf";
const keptOrder = (): Order => ORDERS.find((one) => one === localStorage.getItem(ORDER)) ?? "player";
const addressOf = (solo: Solo): string => `/solos/${solo.id}/notes`;

export function Shelf({ onBring, importing }: Props) {
  const [solos, setSolos] = useState<Solo[] | null>(null);
  const [endings, setEndings] = useState<readonly string[]>([]);
  const [trouble, setTrouble] = useState<string | null>(null);
  const [renaming, setRenaming] = useState<Solo | null>(null);
  const [licks, setLicks] = useState<readonly Removed[]>([]);
  const [words, setWords] = useState("");
  const [order, setOrder] = useState<Order>(keptOrder);
  const [gone, setGone] = useState<Solo | null>(null); // the solo that was removed last
  const load = useCallback(async () => {
    try {
      const [shelf, removedLicks] = await Promise.all([
        take(api.GET("/api/shelf")),
        take(api.GET("/api/licks/removed")),
      ]);
      setSolos(shelf.solos);
      setLicks(removedLicks);
      setEndings(shelf.sound_endings);
      setTrouble(null);
    } catch (fault) {
      setTrouble(sentence(fault));
    }
  }, []);
  useEffect(() => void load(), [load]);

  const put = async (solo: Solo, back: boolean) => {
    const path = { params: { path: { solo_id: solo.id } } };
    try {
      await take(
        back ? api.POST("/api/solos/{solo_id}/fetch-back", path) : api.POST("/api/solos/{solo_id}/remove", path),
      );
      setGone(back ? null : solo);
      await load();
    } catch (fault) {
      setTrouble(sentence(fault));
    }
  };
  const putLickBack = async ({ id, version }: Removed) => {
    try {
      await take(api.POST("/api/licks/{lick_id}/restore", { params: { path: { lick_id: id } }, body: { version } }));
      await load();
    } catch (fault) {
      setTrouble(sentence(fault));
    }
  };

  const here = solos?.filter((solo) => !solo.removed) ?? [];
  const removed = solos?.filter((solo) => solo.removed) ?? [];
  const found = here.filter((solo) => named(solo, words));
  const open = openOver(here);
  const latest = [...here]
    .sort((a, b) => b.touched_at.localeCompare(a.touched_at))
    .find((solo) => solo.next !== "all written");

  return (
    <main className="grid flex-1 grid-cols-1 gap-11 px-7 py-6 lg:grid-cols-[minmax(0,1fr)_300px]">
      <div>
        {trouble !== null && (
          <p role="alert" className="mb-4 border-l-4 border-doubt bg-sheet px-4 py-3">
            {trouble}
          </p>
        )}
        {solos !== null && here.length === 0 && (
          <section className="max-w-xl py-10">
            <h2 className="font-naming text-[28px] font-semibold">The shelf is empty.</h2>
            <p className="mt-3 text-[18px] leading-relaxed text-ink-2">
              Add the recording of a solo that you want to teach: drop the file on the right, or choose it. You say
              where bar 1 starts and which chords pass, and then write it note by note.
            </p>
            <WhereItLeads />
          </section>
        )}
        {gone !== null && (
          <p
            role="status"
            aria-label="Removed"
            className="mb-4 flex items-baseline gap-3 border-l-4 border-rule-2 px-4"
          >
            “{gone.tune}” was removed. It is kept for 30 days.
            <Button size="small" onClick={() => void put(gone, true)}>
              Put back
            </Button>
          </p>
        )}
        {here.length > 0 && (
          <search className="mb-5 flex flex-wrap items-end gap-x-5 gap-y-2">
            <label className="min-w-[14rem] flex-1 border-b-2 border-ink">
              <span className="sr-only">Search the shelf</span>
              <input
                type="search"
                value={words}
                placeholder="tune, solo or player"
                className="w-full bg-transparent pb-1 text-[20px] placeholder:text-ink-3 focus:outline-none"
                onChange={(event) => setWords(event.target.value)}
              />
            </label>
            <span className="flex items-center gap-2 text-ink-2">
              by
              <Select
                small
                label="Order"
                options={ORDERS}
                value={order}
                onChoose={(value) => {
                  setOrder(value as Order);
                  localStorage.setItem(ORDER, value);
                }}
              />
            </span>
            <p role="status" aria-label="Open over all solos" className="w-full font-bold text-doubt empty:hidden">
              {open}
            </p>
          </search>
        )}
        {here.length > 0 && found.length === 0 && <p className="text-[17px]">No solo has that name.</p>}
        {inOrder(found, order).map(({ heading, solos: group }) => (
          <section key={heading} aria-label={heading || "Solos"} className="mb-8">
            {heading !== "" && <h2 className="mb-1 font-naming text-[25px] font-semibold">{heading}</h2>}
            <ul>
              {group.map((solo) => (
                <li
                  key={solo.id}
                  className="grid grid-cols-[minmax(0,1fr)_auto] items-center gap-3 border-b border-rule hover:bg-sheet sm:grid-cols-[minmax(0,1fr)_auto_auto]"
                >
                  <Link
                    to={addressOf(solo)}
                    className="grid grid-cols-1 items-center gap-x-4 gap-y-1 px-3 py-2 text-left sm:grid-cols-[280px_minmax(0,1fr)]"
                  >
                    <span>
                      <span className="block text-[18px] font-bold">{solo.tune}</span>
                      <span className="block text-[14px] text-ink-2">
                        {[heading === "" ? solo.player : null, solo.title, solo.has_sound ? null : "no recording"]
                          .filter(Boolean)
                          .join(" · ")}
                      </span>
                    </span>
                    <Miniature bars={solo.bars} />
                  </Link>
                  <p className="hidden text-right sm:block">
                    <span className="block font-bold">{solo.written}</span>
                    <span
                      className={solo.doubtful || solo.disputed ? "block font-bold text-doubt" : "block text-ink-2"}
                    >
                      {[
                        solo.next,
                        solo.check !== null && solo.check.open > 0
                          ? `${solo.check.open} finding${solo.check.open > 1 ? "s" : ""}`
                          : null,
                        solo.disputed ? "disputed" : null,
                      ]
                        .filter(Boolean)
                        .join(" · ")}
                    </span>
                  </p>
                  <Menu
                    label="more"
                    items={[
                      { name: "Rename", act: () => setRenaming(solo) },
                      { name: "Remove", act: () => void put(solo, false) },
                    ]}
                  />
                </li>
              ))}
            </ul>
          </section>
        ))}
      </div>
      <aside className="flex flex-col gap-7">
        <Bring onBring={onBring} endings={endings} />
        {importing}
        {latest !== undefined && (
          <section className="border-t-[3px] border-ink pt-3">
            <h2 className="font-naming text-[21px] font-semibold first-letter:uppercase">{latest.next}</h2>
            <p className="mt-1 text-ink-2">{[latest.tune, latest.title].filter(Boolean).join(", ")}.</p>
            <Link
              to={addressOf(latest)}
              className="mt-3 inline-block rounded-[5px] border border-rule-2 bg-sheet px-4 py-2 font-bold hover:border-ink"
            >
              Open it
            </Link>
          </section>
        )}
        {removed.length + licks.length > 0 && (
          <section aria-label="Removed" className="border-t-[3px] border-ink pt-3">
            <h2 className="font-naming text-[21px] font-semibold">Removed</h2>
            <p className="text-[14px] text-ink-2">Kept for 30 days, then gone for good.</p>
            <ul className="mt-2">
              {removed.map((solo) => (
                <RemovedRow
                  key={solo.id}
                  name={[solo.tune, solo.title].filter(Boolean).join(", ")}
                  what="solo"
                  onBack={() => void put(solo, true)}
                />
              ))}
              {licks.map((lick) => (
                <RemovedRow
                  key={lick.id}
                  name={lick.name || "without a name"}
                  what="lick"
                  onBack={() => void putLickBack(lick)}
                />
              ))}
            </ul>
          </section>
        )}
      </aside>
      {renaming !== null && (
        <Rename
          solo={renaming}
          onClose={() => {
            setRenaming(null);
            void load();
          }}
        />
      )}
    </main>
  );
}

function RemovedRow({ name, what, onBack }: { name: string; what: "solo" | "lick"; onBack: () => void }) {
  return (
    <li className="flex items-center justify-between gap-2 py-1">
      <span className="min-w-0">
        {name} <span className="text-[14px] text-ink-2">{what}</span>
      </span>
      <Button quiet aria-label={`Put back ${name}`} onClick={onBack}>
        Put back
      </Button>
    </li>
  );
}

function Bring({ onBring, endings }: { onBring: (file: File | "none") => void; endings: readonly string[] }) {
  const [field, choose] = useFile("Recording file", [...endings, "audio/*"].join(","), onBring);
  const [over, setOver] = useState(false);
  return (
    <section
      aria-label="Add a recording"
      onDragOver={(event) => {
        event.preventDefault();
        setOver(true);
      }}
      onDragLeave={() => setOver(false)}
      onDrop={(event) => {
        event.preventDefault();
        setOver(false);
        const file = event.dataTransfer.files[0];
        if (file !== undefined) onBring(file);
      }}
      className={`border-2 border-dashed p-5 ${over ? "border-ink bg-sheet" : "border-rule-2"}`}
    >
      <h2 className="font-naming text-[21px] font-semibold">Add a recording</h2>
      <p className="mt-1 text-ink-2">
        Drop a file here (WAV, FLAC, OGG, Opus, MP3, M4A, MP4, AIFF and most others, up to 15 minutes). It stays on this
        machine. Copying a recording is a matter of your local law.
      </p>
      {field}
      <div className="mt-3 flex flex-wrap gap-2">
        <Button strong onClick={choose}>
          Choose a file
        </Button>
        <Button quiet onClick={() => onBring("none")}>
          without a recording
        </Button>
      </div>
    </section>
  );
}

function Rename({ solo, onClose }: { solo: Solo; onClose: () => void }) {
  const [tune, setTune] = useState(solo.tune);
  const [title, setTitle] = useState(solo.title);
  const [player, setPlayer] = useState(solo.player ?? "");
  const save = async () => {
    try {
      await take(
        api.POST("/api/solos/{solo_id}/rename", {
          params: { path: { solo_id: solo.id } },
          body: { tune, title, player },
        }),
      );
      return null;
    } catch (fault) {
      return sentence(fault);
    }
  };
  return (
    <InputDialog title="Rename" submit="Rename" onSubmit={save} onClose={onClose}>
      <Field label="Tune" value={tune} required onChange={(event) => setTune(event.target.value)} />
      <Field label="Which solo" value={title} onChange={(event) => setTitle(event.target.value)} />
      <Field label="Player" value={player} onChange={(event) => setPlayer(event.target.value)} />
      <p className="text-[13px] text-ink-3">
        The tune is renamed for all solos on this recording. <Key>-</Key> in the solo undoes a new title.
      </p>
    </InputDialog>
  );
}
