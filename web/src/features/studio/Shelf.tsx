import { type ReactNode, useCallback, useEffect, useState } from "react";
import { Link } from "react-router";
import { api, type Schemas, sentence, take } from "@/api/client";
import { InputDialog } from "@/ui/InputDialog";
import { useFile } from "@/ui/useFile";
import { Button, Field, Key, Menu } from "@/ui/parts";
import { Miniature } from "./Miniature";

type Solo = Schemas["ShelfSolo"];
type Props = { onBring: (file: File | "none") => void; importing: ReactNode };

const UNKNOWN = "Player not known";
const addressOf = (solo: Solo): string => `/solos/${solo.id}/notes`;

export function Shelf({ onBring, importing }: Props) {
  const [solos, setSolos] = useState<Solo[] | null>(null);
  const [endings, setEndings] = useState<readonly string[]>([]);
  const [trouble, setTrouble] = useState<string | null>(null);
  const [renaming, setRenaming] = useState<Solo | null>(null);
  const load = useCallback(async () => {
    try {
      const shelf = await take(api.GET("/api/shelf"));
      setSolos(shelf.solos);
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
    } catch (fault) {
      setTrouble(sentence(fault));
    }
    await load();
  };

  const here = solos?.filter((solo) => !solo.removed) ?? [];
  const removed = solos?.filter((solo) => solo.removed) ?? [];
  const players = [...new Set(here.map((solo) => solo.player ?? UNKNOWN))];
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
          </section>
        )}
        {players.map((player) => (
          <section key={player} aria-label={player} className="mb-8">
            <h2 className="mb-1 font-naming text-[25px] font-semibold">{player}</h2>
            <ul>
              {here
                .filter((solo) => (solo.player ?? UNKNOWN) === player)
                .map((solo) => (
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
                          {[solo.title, solo.has_sound ? null : "no recording"].filter(Boolean).join(" · ")}
                        </span>
                      </span>
                      <Miniature bars={solo.bars} />
                    </Link>
                    <p className="hidden text-right sm:block">
                      <span className="block font-bold">{solo.written}</span>
                      <span className={solo.doubtful ? "block font-bold text-doubt" : "block text-ink-2"}>
                        {solo.next}
                        {solo.check !== null && solo.check.open > 0 && (
                          <span className="block">
                            {solo.check.open} finding{solo.check.open > 1 ? "s" : ""}
                          </span>
                        )}
                      </span>
                      {solo.disputed && <span className="block font-bold text-doubt">disputed</span>}
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
        {removed.length > 0 && (
          <section aria-label="Removed" className="border-t-[3px] border-ink pt-3">
            <h2 className="font-naming text-[21px] font-semibold">Removed</h2>
            <p className="text-[14px] text-ink-2">Kept for 30 days, then gone for good.</p>
            <ul className="mt-2">
              {removed.map((solo) => (
                <li key={solo.id} className="flex items-center justify-between gap-2 py-1">
                  <span>{solo.tune}</span>
                  <Button quiet aria-label={`Restore ${solo.tune}`} onClick={() => void put(solo, true)}>
                    restore
                  </Button>
                </li>
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
  const [trouble, setTrouble] = useState<string | null>(null);
  const save = async () => {
    try {
      await take(
        api.POST("/api/solos/{solo_id}/rename", {
          params: { path: { solo_id: solo.id } },
          body: { tune, title, player },
        }),
      );
      onClose();
    } catch (fault) {
      setTrouble(sentence(fault));
    }
  };
  return (
    <InputDialog title="Rename" submit="Rename" trouble={trouble} onSubmit={() => void save()} onClose={onClose}>
      <Field label="Tune" value={tune} required onChange={(event) => setTune(event.target.value)} />
      <Field label="Which solo" value={title} onChange={(event) => setTitle(event.target.value)} />
      <Field label="Player" value={player} onChange={(event) => setPlayer(event.target.value)} />
      <p className="text-[13px] text-ink-3">
        The tune is renamed for all solos on this recording. <Key>-</Key> in the solo undoes a new title.
      </p>
    </InputDialog>
  );
}
