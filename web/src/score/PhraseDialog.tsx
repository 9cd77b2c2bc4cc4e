import { type Selection, select } from "./cursor";
import { openDocument } from "./document";
import { cutPhrase, renamePhrase } from "./phrases";
import { act } from "./sending";
import { Button, Field } from "@/ui/parts";
import { useDraft } from "@/ui/drafts";
import { InputDialog } from "@/ui/InputDialog";

/** A span that becomes a phrase, or a phrase that gets another name or goes. */
export type Named = Selection | { readonly phrase: string };

const soloId = (): string => openDocument().bench?.solo_id ?? "";

export function PhraseDialog({ what, onClose }: { what: Named; onClose: () => void }) {
  const phrase = "phrase" in what ? openDocument().elements.phrases[what.phrase] : undefined;
  const place = "phrase" in what ? `phrase ${what.phrase}` : `phrase ${soloId()} ${what.from}-${what.to}`;
  const draft = useDraft(place, { name: phrase?.name ?? "" });
  const { name } = draft.value;
  const save = () => {
    if (phrase !== undefined) act(renamePhrase(phrase, name));
    else if ("from" in what) {
      act(cutPhrase(openDocument().elements, what.from, what.to, name));
      select(null);
    }
    return Promise.resolve(null);
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
      draft={draft}
      onSubmit={save}
      onClose={onClose}
    >
      <Field
        label="Name"
        required
        autoFocus
        placeholder="the ladder"
        value={name}
        onChange={(event) => draft.set({ name: event.target.value })}
      />
    </InputDialog>
  );
}
