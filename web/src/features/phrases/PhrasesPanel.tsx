import { useState } from "react";
import { phraseAt as readAt, useAnalysing } from "@/score/analysis";
import { useCursor } from "@/score/cursor";
import { useDocument } from "@/score/document";
import { hearLick } from "@/score/hearing";
import { PlayButton } from "@/score/PlayButton";
import { playerNow } from "@/score/playing";
import { PhraseDialog } from "@/score/PhraseDialog";
import { Button, Key } from "@/ui/parts";
import { drawn } from "@/ui/signs";
import { degreesInHand, goTo, keepLick, liftMelody, markMelody, usePhrases } from "./phrases";

type Props = {
  onSuggest: () => void;
  onFind: (degrees: string) => void;
  onOpen: (solo: string, note: string) => void;
  onMelody: (solo: string) => void;
  onPractise: () => void;
};

/** The solo's phrases, the one in hand, and what is like it elsewhere. */
export function PhrasesPanel(props: Props) {
  const phrases = useDocument((state) => state.elements.phrases);
  const outside = useAnalysing((state) => state.read?.outside ?? 0);
  const tick = useCursor((state) => state.cursor.tick);
  const melody = usePhrases((state) => state.melody);
  const all = Object.values(phrases).sort((a, b) => a.start - b.start);
  const here = all.find((one) => one.start <= tick && tick < one.end);
  return (
    <div className="grid min-h-[263px] grid-cols-1 gap-6 px-5 py-2 lg:grid-cols-[minmax(0,.9fr)_minmax(0,1.1fr)_minmax(0,1.1fr)]">
      <section aria-label="Phrases of the solo" className="max-h-[251px] min-w-0 overflow-y-auto">
        <ul>
          {all.map((phrase) => {
            const treated = melody?.phrases.find((one) => one.phrase === phrase.id);
            return (
              <li key={phrase.id} className="border-b border-rule">
                <button
                  type="button"
                  aria-current={phrase.id === here?.id ? "true" : undefined}
                  className={`grid w-full grid-cols-[minmax(0,1fr)_auto] border-l-4 py-1 pl-2 text-left hover:bg-paper ${phrase.id === here?.id ? "border-pick" : "border-transparent"}`}
                  onClick={() => goTo(phrase)}
                >
                  <span className="truncate font-bold">{phrase.name || "without a name"}</span>
                  <span className="text-[14px] text-ink-2">{treated?.treatment ?? ""}</span>
                </button>
              </li>
            );
          })}
        </ul>
        {all.length === 0 && <p className="text-[16px] text-ink-2">No phrase is cut yet.</p>}
        {outside > 0 && (
          <p className="mt-2 text-[15px]">
            {outside} notes stand in no phrase.{" "}
            <Button size="small" title="at rests, behind long notes, with the form" onClick={props.onSuggest}>
              Suggest phrases
            </Button>
          </p>
        )}
      </section>
      <InHand phrase={here} onFind={props.onFind} onPractise={props.onPractise} />
      <section aria-label="Like it elsewhere" className="max-h-[251px] min-w-0 overflow-y-auto">
        <KinList onOpen={props.onOpen} />
        <Melody onMelody={props.onMelody} />
      </section>
    </div>
  );
}

function InHand({
  phrase,
  onFind,
  onPractise,
}: {
  phrase: { readonly id: string; readonly name: string; readonly start: number; readonly end: number } | undefined;
  onFind: (degrees: string) => void;
  onPractise: () => void;
}) {
  const selection = useCursor((state) => state.selection);
  const read = useAnalysing((state) => state.read);
  const marked = useAnalysing((state) => state.marked);
  const kept = usePhrases((state) => state.kept);
  const trouble = usePhrases((state) => state.trouble);
  const [naming, setNaming] = useState(false);
  const told = selection === null ? (phrase === undefined ? null : readAt(read, phrase.start)) : marked;
  const span = selection ?? (phrase === undefined ? null : { from: phrase.start, to: phrase.end });
  return (
    <section aria-label="In hand" className="flex max-h-[251px] min-w-0 flex-col gap-2 overflow-y-auto">
      <h2 className="font-naming text-[20px] font-semibold">
        {selection !== null
          ? "What is marked"
          : phrase === undefined
            ? "Nothing is in hand"
            : phrase.name || "A phrase"}
      </h2>
      {span === null ? (
        <p className="text-ink-2">Put the cursor into a phrase, or mark some notes.</p>
      ) : (
        <>
          {told !== null && (
            <p className="text-[16px]">{drawn(told.words !== "" && !told.outdated ? told.words : told.says)}</p>
          )}
          <div className="flex flex-wrap gap-2">
            <Button size="small" strong onClick={() => void keepLick()}>
              Keep as a lick <Key>↵</Key>
            </Button>
            <Button size="small" onClick={() => onFind(degreesInHand())}>
              Find it elsewhere
            </Button>
            <Button
              size="small"
              onClick={() => {
                playerNow()?.setHear("recording");
                void playerNow()?.loopOver({ from: span.from, to: span.to }, true);
              }}
            >
              Hear it
            </Button>
            {selection !== null && (
              <Button size="small" title="it becomes a line of the plan" onClick={onPractise}>
                Practise it alone
              </Button>
            )}
            <Button size="small" onClick={() => setNaming(true)}>
              {selection !== null ? "Cut a phrase …" : "Name it …"}
            </Button>
          </div>
        </>
      )}
      <p role="status" aria-label="Kept" className="text-[15px] font-bold">
        {kept}
      </p>
      {trouble !== "" && (
        <p role="alert" className="font-bold text-doubt">
          {trouble}
        </p>
      )}
      {naming && span !== null && (
        <PhraseDialog
          what={selection === null && phrase !== undefined ? { phrase: phrase.id } : span}
          onClose={() => setNaming(false)}
        />
      )}
    </section>
  );
}

function KinList({ onOpen }: { onOpen: Props["onOpen"] }) {
  const kin = usePhrases((state) => state.kin);
  return (
    <>
      <h3 className="font-bold">In the player’s other solos</h3>
      {kin === null && <p className="text-ink-2">Looking …</p>}
      {kin?.length === 0 && (
        <p className="text-[15px] text-ink-2">No other solo of this player has four notes of it in a row.</p>
      )}
      <ul aria-label="In other solos">
        {kin?.map((one) => {
          const key = `kin ${one.solo} ${one.there.join(" ")}`;
          const first = one.there[0] ?? "";
          return (
            <li key={key} className="flex items-center gap-2 border-b border-rule py-1">
              <PlayButton
                small
                sound={key}
                label={`Hear ${one.tune}, ${one.place}`}
                onPlay={() =>
                  hearLick(key, {
                    which: { solo: one.solo, first, last: one.there[one.there.length - 1] ?? first },
                    there: { direction: "nearest" },
                    recorded: one.has_sound,
                  })
                }
              />
              <button
                type="button"
                className="min-w-0 flex-1 text-left hover:underline"
                onClick={() => onOpen(one.solo, first)}
              >
                <span className="font-bold">
                  {one.tune}, {one.place}
                </span>{" "}
                <span className="text-[14px] text-ink-2">
                  {one.count} notes, {one.says}
                </span>
              </button>
            </li>
          );
        })}
      </ul>
    </>
  );
}

function Melody({ onMelody }: Pick<Props, "onMelody">) {
  const melody = usePhrases((state) => state.melody);
  const tick = useCursor((state) => state.cursor.tick);
  if (melody === null) return null;
  const here = melody.phrases.find((one) => one.start <= tick && tick < one.end);
  return (
    <section aria-label="Melody" className="mt-3 border-t border-rule pt-2">
      <h3 className="font-bold">The melody</h3>
      {melody.own ? (
        <p className="text-[15px]">
          This is the tune’s melody; solos on this recording are held against it.{" "}
          <Button size="small" onClick={() => void markMelody(false)}>
            It is a solo
          </Button>
        </p>
      ) : melody.solo === null ? (
        <p className="text-[15px] text-ink-2">
          It is not written.{" "}
          <Button size="small" onClick={() => void liftMelody().then((solo) => solo !== null && onMelody(solo))}>
            Lift what is marked
          </Button>{" "}
          <Button size="small" onClick={() => void markMelody(true)}>
            This solo is it
          </Button>
        </p>
      ) : (
        <p className="text-[15px]">
          {here === undefined ? "Between phrases." : `This phrase ${here.says}.`}{" "}
          <Button size="small" onClick={() => melody.solo !== null && onMelody(melody.solo)}>
            Open the melody
          </Button>
        </p>
      )}
    </section>
  );
}
