import { useRef, useState } from "react";
import { api, sentence, take } from "@/api/client";
import { Button, Dialog } from "@/ui/parts";
import { useFile } from "@/ui/useFile";
import { ImportDialog } from "./ImportDialog";
import { ENDINGS } from "./importing";

type Differing = { readonly file: File; readonly solo: string; readonly differences: readonly string[] };

/** A solo document of ours, or a file of another program, as a new solo. */
export function ImportFile({ onOpen }: { onOpen: (soloId: string) => void }) {
  const [message, setMessage] = useState<string | null>(null);
  const [differing, setDiffering] = useState<Differing | null>(null);
  const busy = useRef(false); // a second click brings nothing twice
  const [other, setOther] = useState<File | null>(null);
  /** If the recording of a document has another ground here, what differs is listed. */
  const bringDocument = async (file: File, replacing: string | null) => {
    const body = new FormData();
    body.append("file", file);
    setMessage(null);
    if (busy.current) return;
    busy.current = true;
    try {
      const query = { replace_ground: replacing !== null, solo: crypto.randomUUID() };
      const done = await take(
        api.POST("/api/documents", { params: { query }, body: body as never, bodySerializer: (form) => form as never }),
      );
      if (replacing !== null)
        await take(api.POST("/api/solos/{solo_id}/remove", { params: { path: { solo_id: replacing } } }));
      if (done.differences.length > 0) setDiffering({ file, solo: done.solo_id, differences: done.differences });
      else onOpen(done.solo_id);
    } catch (fault) {
      setMessage(sentence(fault));
    } finally {
      busy.current = false;
    }
  };
  const [field, choose] = useFile("File to import", ENDINGS, (file) => {
    setMessage(null);
    if (file.name.toLowerCase().endsWith(".json")) void bringDocument(file, null);
    else setOther(file);
  });
  return (
    <section aria-label="Import" className="border-t-[3px] border-ink pt-3">
      {field}
      <h2 className="font-naming text-[21px] font-semibold">Import</h2>
      <p className="mt-1 text-ink-2">
        A solo document, or what another program wrote: MusicXML, MIDI, JAMS, text tablature.
      </p>
      <Button className="mt-3" onClick={choose}>
        Import a file
      </Button>
      {message !== null && (
        <p role="alert" className="mt-2 font-bold text-doubt">
          {message}
        </p>
      )}
      {other !== null && <ImportDialog file={other} into={null} onMade={onOpen} onClose={() => setOther(null)} />}
      {differing !== null && (
        <Dialog open onOpenChange={() => onOpen(differing.solo)} title="Another setup is here">
          <p>
            This recording has been set up here already. The document differs in:{" "}
            <b>{differing.differences.join(", ")}</b>. The solo uses the setup here now.
          </p>
          <div className="mt-4 flex flex-wrap justify-end gap-2">
            <Button onClick={() => void bringDocument(differing.file, differing.solo)}>
              Use the document’s setup for all its solos
            </Button>
            <Button strong onClick={() => onOpen(differing.solo)}>
              Keep the setup here
            </Button>
          </div>
        </Dialog>
      )}
    </section>
  );
}
