import { useEffect, useState } from "react";
import { sentence } from "@/api/client";
import { tryRequest } from "@/score/sending";
import { InputDialog } from "@/ui/InputDialog";
import { Choose } from "@/ui/parts";
import { bringInto, bringNew, type How, type Look, lookInto } from "./importing";

const LENGTHS: Readonly<Record<string, string>> = {
  spacing: "As far apart as they stand",
  quarters: "All quarter notes",
  eighths: "All eighth notes",
  triplets: "All triplets of eighths",
  sixteenths: "All sixteenth notes",
};
type Props = {
  file: File;
  /** The solo that it goes into; null makes a new one. */
  into: string | null;
  /** Of a new solo. */
  onMade?: (soloId: string) => void;
  onClose: () => void;
};

/** A file of another program: which part, where the hand goes, what cannot be held; then a solo, or notes in one. */
export function ImportDialog({ file, into, onMade, onClose }: Props) {
  const [how, setHow] = useState<How>({ part: null, lengths: null, way: 0 });
  const [look, setLook] = useState<Look | null>(null);
  const [trouble, setTrouble] = useState<string | null>(null);
  const [id] = useState(() => crypto.randomUUID());
  useEffect(() => {
    let current = true;
    lookInto(file, how, into).then(
      (found) => {
        if (!current) return;
        setLook(found);
        setTrouble(null);
      },
      (fault: unknown) => {
        if (current) setTrouble(sentence(fault));
      },
    );
    return () => {
      current = false;
    };
  }, [file, how, into]);
  const bring = async () => {
    const chosen = look?.asks_lengths === true && how.lengths === null ? { ...how, lengths: "spacing" } : how;
    try {
      if (into !== null) return await tryRequest((soloId) => bringInto(soloId, file, chosen), true);
      onMade?.((await bringNew(file, chosen, id)).solo_id);
      return null;
    } catch (fault) {
      return sentence(fault);
    }
  };
  return (
    <InputDialog
      title={`Import ${file.name}`}
      submit={into === null ? "Make a solo of it" : "Put it in"}
      disabled={look === null}
      trouble={trouble}
      onSubmit={bring}
      onClose={onClose}
    >
      {look !== null && <What look={look} how={how} into={into} onHow={setHow} />}
    </InputDialog>
  );
}

type WhatProps = { look: Look; how: How; into: string | null; onHow: (how: How) => void };

function What({ look, how, into, onHow }: WhatProps) {
  return (
    <>
      <p className="text-[17px]">
        {look.says}: {[look.title, look.holds].filter(Boolean).join(", ")}.
      </p>
      {look.parts.length > 1 && (
        <Choose
          label="Part"
          options={look.parts.map((part) => ({
            value: part.id,
            words: `${part.name}, ${part.says}`,
          }))}
          value={how.part ?? look.part}
          onChoose={(part) => onHow({ ...how, part, way: 0 })}
        />
      )}
      {look.asks_lengths && (
        <Choose
          label="How long are its notes?"
          hint="The text does not say it."
          options={look.lengths.map((value) => ({ value, words: LENGTHS[value] ?? value }))}
          value={how.lengths ?? "spacing"}
          onChoose={(lengths) => onHow({ ...how, lengths })}
        />
      )}
      {look.ways.length > 1 && (
        <Choose
          label="Positions of notes without a place"
          options={look.ways.map((words, i) => ({ value: String(i), words }))}
          value={String(how.way)}
          onChoose={(way) => onHow({ ...how, way: Number(way) })}
        />
      )}
      <Listed title="What to know" lines={look.messages} />
      <Listed title="What cannot be held" lines={look.listed} />
      <p className="text-[14px] text-ink-2">
        {into === null
          ? "It becomes a solo without a recording. One undo takes its notes back."
          : "Its notes go in place of what its bars hold here, on the grid and the strings of this solo. One undo brings all back."}
      </p>
    </>
  );
}

function Listed({ title, lines }: { title: string; lines: readonly string[] }) {
  if (lines.length === 0) return null;
  return (
    <section aria-label={title}>
      <p className="font-bold text-ink-2">{title}</p>
      <ul className="mt-1 max-h-[22vh] list-disc overflow-auto pl-5 text-[15px]" tabIndex={0}>
        {lines.map((line) => (
          <li key={line}>{line}</li>
        ))}
      </ul>
    </section>
  );
}
