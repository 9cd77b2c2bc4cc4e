import { type ReactNode, useEffect, useState } from "react";
import { api, type Schemas, sentence, take } from "@/api/client";
import { latest } from "@/api/latest";
import { useDocument } from "@/score/document";
import { layUnder, useShown } from "@/score/shown";
import { request, setRecording } from "@/score/sending";
import { Button, Field } from "@/ui/parts";
import { CreditsDialog } from "./CreditsDialog";
import { Select } from "@/ui/Select";

type Recording = Schemas["Recording"];

/** What is known of the recording, its tune's other recordings and solos, and who is said to play. */
export function RecordingTab() {
  const bench = useDocument((state) => state.bench);
  const under = useShown((state) => state.under);
  const [family, setFamily] = useState<readonly Schemas["FamilyRecording"][]>([]);
  const [message, setMessage] = useState("");
  const [crediting, setCrediting] = useState(false);
  const soloId = bench?.solo_id;
  useEffect(() => {
    if (soloId === undefined) return undefined;
    return latest(
      take(api.GET("/api/solos/{solo_id}/family", { params: { path: { solo_id: soloId } } })),
      setFamily,
      (fault) => setMessage(sentence(fault)),
    );
  }, [soloId]);
  if (bench === null) return null;
  const { settings } = bench.solo;
  const continues = (id: string | null) =>
    request((solo_id) =>
      take(
        api.PUT("/api/solos/{solo_id}/sleeve", {
          params: { path: { solo_id } },
          body: { credits: settings.credits, rig: settings.rig, continues: id, ends_continuing: id === null },
        }),
      ),
    );
  const layPart = (id: string, on: boolean) => {
    if (!on) {
      layUnder(null);
      return;
    }
    take(
      api.GET("/api/solos/{solo_id}/parts/{other_id}", { params: { path: { solo_id: bench.solo_id, other_id: id } } }),
    ).then(
      (notes) => layUnder({ id, notes }),
      (fault: unknown) => setMessage(sentence(fault)),
    );
  };
  const credits = <Button onClick={() => setCrediting(true)}>Credits and rig …</Button>;
  const others = family.flatMap((one) => one.solos).filter((solo) => solo.solo_id !== bench.solo_id);
  return (
    <div className="grid grid-cols-1 gap-x-8 gap-y-3 lg:grid-cols-2">
      <div className="flex flex-col gap-2">
        {bench.recording === null ? (
          <>
            <p className="text-ink-2">This solo stands on a tempo and a form alone, without a recording.</p>
            <div>{credits}</div>
          </>
        ) : (
          <RecordingFacts key={bench.recording.id} recording={bench.recording} onSaid={setMessage}>
            {credits}
          </RecordingFacts>
        )}
        <p role="status" aria-label="Recording" className="text-[14px]">
          {message}
        </p>
      </div>
      <div className="flex flex-col gap-2">
        <h3 className="font-bold text-ink-2">Recordings of “{bench.tune}”</h3>
        <ul aria-label="Recordings of this tune" className="flex flex-col gap-2">
          {family.map((one) => (
            <li key={one.recording?.id ?? "none"}>
              <p className="font-bold">
                {one.recording === null
                  ? "without a recording"
                  : [one.recording.title, one.recording.year, one.recording.take].filter(Boolean).join(" · ")}
              </p>
              <ul>
                {one.solos.map((solo) => (
                  <li key={solo.solo_id} className="flex flex-wrap items-center gap-x-3 pl-3 text-[14px]">
                    {solo.solo_id === bench.solo_id ? (
                      <span>
                        {solo.title || "the solo"} · {solo.player} – this one
                      </span>
                    ) : (
                      <a className="underline" href={`/solos/${solo.solo_id}/ground`}>
                        {solo.title || "a solo"} · {solo.player}
                      </a>
                    )}
                    {solo.solo_id === settings.continues && <b>this one goes on from it</b>}
                    {solo.part && solo.solo_id !== bench.solo_id && (
                      <label className="flex items-center gap-1">
                        <input
                          type="checkbox"
                          className="size-4 accent-[var(--ink)]"
                          checked={under?.id === solo.solo_id}
                          onChange={(event) => layPart(solo.solo_id, event.target.checked)}
                        />
                        lay under this one
                      </label>
                    )}
                  </li>
                ))}
              </ul>
            </li>
          ))}
        </ul>
        <span className="flex items-center gap-2 text-[14px]">
          <span aria-hidden>goes on from</span>
          <Select
            small
            label="goes on from"
            options={[
              { value: "", words: "no other solo" },
              ...others.map((solo) => ({
                value: solo.solo_id,
                words: [solo.title || "a solo", solo.player].join(" · "),
              })),
            ]}
            value={settings.continues ?? ""}
            onChoose={(value) => void continues(value || null)}
          />
        </span>
        <p className="text-[13px] text-ink-2">
          Another recording: start a new solo with its file under the same tune. Another guitar: start a new solo with
          this file.
        </p>
      </div>
      {crediting && <CreditsDialog onClose={() => setCrediting(false)} />}
    </div>
  );
}

const FIELDS = [
  ["title", "Title"],
  ["source", "Album or source"],
  ["year", "Year"],
  ["take", "Take"],
  ["link", "Link or shelf mark"],
  ["notes", "Notes"],
] as const;

type Setting = "" | "studio" | "live";
const SETTINGS = [
  { value: "", words: "made: not known" },
  { value: "studio", words: "made in a studio" },
  { value: "live", words: "made live" },
];

function RecordingFacts({
  recording,
  onSaid,
  children,
}: {
  recording: Recording;
  onSaid: (words: string) => void;
  children: ReactNode;
}) {
  const [typed, setTyped] = useState<Readonly<Record<(typeof FIELDS)[number][0], string>>>(() => ({
    title: recording.title,
    source: recording.source,
    year: recording.year == null ? "" : String(recording.year),
    take: recording.take,
    link: recording.link,
    notes: recording.notes,
  }));
  const [setting, setSetting] = useState<Setting>(recording.setting as Setting);
  const keep = () => {
    const year = typed.year.trim();
    if (year !== "" && !/^\d{4}$/.test(year)) {
      onSaid(`“${year}” is not a year: write four figures, or nothing.`);
      return;
    }
    take(
      api.PUT("/api/recordings/{recording_id}", {
        params: { path: { recording_id: recording.id } },
        body: { ...typed, setting, year: year === "" ? null : Number(year) },
      }),
    ).then(
      (after) => {
        setRecording(after);
        onSaid("Kept.");
      },
      (fault: unknown) => onSaid(sentence(fault)),
    );
  };
  return (
    <form
      className="flex flex-col gap-2"
      onSubmit={(event) => {
        event.preventDefault();
        keep();
      }}
    >
      <div className="grid grid-cols-3 gap-x-3 gap-y-2">
        {FIELDS.map(([name, label]) => (
          <Field
            key={name}
            label={label}
            value={typed[name]}
            onChange={(event) => setTyped({ ...typed, [name]: event.target.value })}
          />
        ))}
      </div>
      <div className="flex items-center gap-3">
        <Select
          small
          label="Made"
          options={SETTINGS}
          value={setting}
          onChoose={(value) => setSetting(value as Setting)}
        />
        <Button strong type="submit">
          Save
        </Button>
        {children}
      </div>
    </form>
  );
}
