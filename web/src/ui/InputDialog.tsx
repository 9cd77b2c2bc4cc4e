/** A dialog that asks for something: what it asks, what went wrong, Cancel and the answer. */
import type { ReactNode } from "react";
import type { Draft } from "./drafts";
import { Button, Dialog } from "./parts";
import { type Sent, useSend } from "./useSend";

type Kept = Pick<Draft<Record<string, string>>, "kept" | "drop">;
type Props = {
  title: string;
  wide?: boolean;
  /** What the answer's button says. */
  submit: string;
  disabled?: boolean;
  trouble?: ReactNode;
  /** Beside Cancel. */
  others?: ReactNode;
  /** What is typed here and outlives the dialog until it is stored, or cancelled. */
  draft?: Kept;
  /** Once it is done the dialog closes. */
  onSubmit: () => Promise<Sent>;
  onClose: () => void;
  children: ReactNode;
};

/** What stands in the fields was typed before and never stored. */
export function KeptDraft({ draft }: { draft: Kept }) {
  if (!draft.kept) return null;
  return (
    <p role="status" aria-label="Draft" className="flex flex-wrap items-baseline gap-x-3 text-[14px] text-doubt">
      You typed this before; it is not saved yet.
      <button type="button" className="underline underline-offset-2" onClick={draft.drop}>
        Throw it away
      </button>
    </p>
  );
}

/** While it sends it cannot send again; it closes when what it asked for is done, and says why when it is not. */
export function InputDialog({
  title,
  wide,
  submit,
  disabled,
  trouble,
  others,
  draft,
  onSubmit,
  onClose,
  children,
}: Props) {
  const { busy, failed, send, isBusy } = useSend(onSubmit, () => {
    draft?.drop();
    onClose();
  });
  const cancel = () => {
    draft?.drop();
    onClose();
  };
  const wrong = failed ?? trouble;
  return (
    <Dialog
      open
      wide={wide ?? false}
      onOpenChange={(open) => {
        if (!open && !isBusy()) onClose();
      }}
      title={title}
    >
      <form
        className="flex flex-col gap-4"
        aria-busy={busy}
        onSubmit={(event) => {
          event.preventDefault();
          send();
        }}
      >
        {draft !== undefined && <KeptDraft draft={draft} />}
        {children}
        {wrong != null && (
          <p role="alert" className="font-bold text-doubt">
            {wrong}
          </p>
        )}
        <div className="flex justify-end gap-2">
          {others}
          <Button quiet onClick={cancel}>
            Cancel
          </Button>
          <Button strong type="submit" disabled={disabled === true || busy}>
            {submit}
          </Button>
        </div>
      </form>
    </Dialog>
  );
}
