import { useState } from "react";
import { type Selection, select } from "./cursor";
import { openDocument } from "./document";
import { cutPhrase, renamePhrase } from "./phrases";
import { act } from "./sending";
import { Button, Field } from "@/ui/parts";
import { InputDialog } from "@/ui/InputDialog";

/** A span that becomes a phrase, or a phrase that gets another name or goes. */
export type Named = Selection | { readonly phrase: string };

export function PhraseDialog({ what, onClose }: { what: Named; onClose: () => void }) {
  const phrase = "phrase" in what ? openDocument().elements.phrases[what.phrase] : undefined;
  const [name, setName] = useState(phrase?.name ?? "");
  const save = () => {
    if (phrase !== undefined) act(renamePhrase(phrase, name));
    else if ("from" in what) {
      act(cutPhrase(openDocument().elements, what.from, what.to, name));
      select(null);
    }
    onClose();
  };
  const remove = () => {
    if (phrase !== undefined) act(renamePhrase(phrase, null));
    onClose();
  };
  return (
    <InputDialog
      title={phrase === undefined ? "New phrase" : "Name a phrase"}
      submit={phrase === undefined ? "Cut" : "Name"}
      others={
        phrase !== undefined && (
          <Button quiet onClick={remove}>
            delete it
          </Button>
        )
      }
      onSubmit={save}
      onClose={onClose}
    >
      <Field
        label="Name"
        required
        autoFocus
        placeholder="the ladder"
        value={name}
        onChange={(event) => setName(event.target.value)}
      />
    </InputDialog>
  );
}
