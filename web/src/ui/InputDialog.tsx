/** A dialog that asks for something: what it asks, what went wrong, Cancel and the answer. */
import type { ReactNode } from "react";
import { Button, Dialog } from "./parts";

type Props = {
  title: string;
  wide?: boolean;
  /** What the answer's button says. */
  submit: string;
  disabled?: boolean;
  trouble?: ReactNode;
  /** Beside Cancel. */
  others?: ReactNode;
  onSubmit: () => void;
  onClose: () => void;
  children: ReactNode;
};

export function InputDialog({ title, wide, submit, disabled, trouble, others, onSubmit, onClose, children }: Props) {
  return (
    <Dialog
      open
      wide={wide ?? false}
      onOpenChange={(open) => {
        if (!open) onClose();
      }}
      title={title}
    >
      <form
        className="flex flex-col gap-4"
        onSubmit={(event) => {
          event.preventDefault();
          onSubmit();
        }}
      >
        {children}
        {trouble != null && (
          <p role="alert" className="font-bold text-doubt">
            {trouble}
          </p>
        )}
        <div className="flex justify-end gap-2">
          {others}
          <Button quiet onClick={onClose}>
            Cancel
          </Button>
          <Button strong type="submit" disabled={disabled}>
            {submit}
          </Button>
        </div>
      </form>
    </Dialog>
  );
}
