import { useEffect, useState } from "react";
import { api, type Schemas, sentence, take } from "@/api/client";
import { useLook } from "@/score/look";
import { InputDialog } from "@/ui/InputDialog";
import { Choose, Tick } from "@/ui/parts";

type Format = Schemas["ExportView"];
type Props = { soloId: string; onClose: () => void };

/** Every format that a solo goes out as, with what it will not hold of this one. */
export function ExportDialog({ soloId, onClose }: Props) {
  const [formats, setFormats] = useState<readonly Format[]>([]);
  const [name, setName] = useState("musicxml");
  const [degrees, setDegrees] = useState(false);
  const [asPlayed, setAsPlayed] = useState(true);
  const [trouble, setTrouble] = useState<string | null>(null);
  useEffect(() => {
    take(api.GET("/api/solos/{solo_id}/exports", { params: { path: { solo_id: soloId } } })).then(
      setFormats,
      (fault: unknown) => setTrouble(sentence(fault)),
    );
  }, [soloId]);
  const format = formats.find((one) => one.name === name);
  const save = () => {
    const query = new URLSearchParams({
      ...useLook.getState().reader,
      ...(format?.degrees === true && degrees ? { degrees: "true" } : {}),
      ...(format?.swings === true && !asPlayed ? { as_played: "false" } : {}),
    });
    location.assign(`/api/solos/${soloId}/exports/${name}?${query.toString()}`);
    return Promise.resolve(null);
  };
  return (
    <InputDialog
      title="Export"
      submit="Export"
      disabled={format === undefined}
      trouble={trouble}
      onSubmit={save}
      onClose={onClose}
    >
      <Choose
        label="Format"
        options={formats.map((one) => ({ value: one.name, words: `${one.says} (${one.ending})` }))}
        value={name}
        onChoose={setName}
      />
      {format?.degrees === true && <Tick label="Degrees under the notes" on={degrees} onTick={setDegrees} />}
      {format?.swings === true && <Tick label="Swing as it sounds" on={asPlayed} onTick={setAsPlayed} />}
      {format !== undefined && <NotHeld format={format} />}
    </InputDialog>
  );
}

function NotHeld({ format }: { format: Format }) {
  if (format.not_held.length === 0) return null;
  return (
    <section aria-label="What it will not hold">
      <p className="font-bold text-ink-2">This file will not hold</p>
      <ul className="mt-1 max-h-[34vh] list-disc overflow-auto pl-5 text-[15px]" tabIndex={0}>
        {format.not_held.map((line) => (
          <li key={line}>{line}</li>
        ))}
      </ul>
      <p className="mt-2 text-[14px] text-ink-2">The solo document holds everything.</p>
    </section>
  );
}
