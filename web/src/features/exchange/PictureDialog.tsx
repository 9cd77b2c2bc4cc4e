import { useState } from "react";
import { useLook } from "@/score/look";
import { InputDialog } from "@/ui/InputDialog";
import { Choose, Tick } from "@/ui/parts";
import { spansOf } from "./spans";

const WHAT = [
  { value: "tab", words: "Tablature" },
  { value: "neck", words: "The neck, with degrees" },
];
const KIND = [
  { value: "svg", words: "SVG, sharp at any size" },
  { value: "png", words: "PNG" },
];
type Props = { soloId: string; onClose: () => void };

/** A phrase or bars as a picture, shown as it will be, to paste into a document. */
export function PictureDialog({ soloId, onClose }: Props) {
  const [spans] = useState(spansOf);
  const [at, setAt] = useState(0);
  const [what, setWhat] = useState("tab");
  const [kind, setKind] = useState("svg");
  const [titled, setTitled] = useState(true);
  const [failed, setFailed] = useState("");
  const span = spans[at];
  if (span === undefined) return null;
  const address = (as: string) => {
    const query = new URLSearchParams({
      ...useLook.getState().reader,
      start: String(span.start),
      end: String(span.end),
      what,
      title: titled ? span.name : "",
    });
    return `/api/solos/${soloId}/picture.${as}?${query.toString()}`;
  };
  const shown = address("svg");
  return (
    <InputDialog
      wide
      title="Picture"
      submit="Save the picture"
      disabled={failed === shown}
      onSubmit={() => {
        location.assign(address(kind));
        return Promise.resolve(null);
      }}
      onClose={onClose}
    >
      <div className="grid grid-cols-1 gap-3 sm:grid-cols-3">
        <Choose
          label="Of"
          options={spans.map((one, i) => ({ value: String(i), words: one.words }))}
          value={String(at)}
          onChoose={(value) => setAt(Number(value))}
        />
        <Choose label="As" options={WHAT} value={what} onChoose={setWhat} />
        <Choose label="File" options={KIND} value={kind} onChoose={setKind} />
      </div>
      {span.name !== "" && <Tick label={`“${span.name}” above it`} on={titled} onTick={setTitled} />}
      {failed === shown ? (
        <p role="alert" className="font-bold text-doubt">
          No picture can be made of this: choose a phrase or bars with notes on the neck.
        </p>
      ) : (
        <img
          src={shown}
          alt="What will be saved"
          className="max-h-[52vh] self-center border border-rule bg-white"
          onError={() => setFailed(shown)}
        />
      )}
    </InputDialog>
  );
}
