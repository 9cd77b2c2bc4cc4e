/** A sheet that comes from below, where a thumb reaches it; for narrow screens. */
import { Dialog } from "radix-ui";
import type { ReactNode } from "react";
import { keysGoHome } from "./focus";

type Props = { title: string; trigger: ReactNode; children: ReactNode };

export function BottomSheet({ title, trigger, children }: Props) {
  return (
    <Dialog.Root>
      <Dialog.Trigger className="min-h-11 rounded-[5px] border border-rule-2 bg-sheet px-2 font-bold">
        {trigger}
      </Dialog.Trigger>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-40 bg-ink/30" />
        <Dialog.Content
          aria-describedby={undefined}
          onCloseAutoFocus={keysGoHome}
          className="fixed inset-x-0 bottom-0 z-50 max-h-[76vh] overflow-y-auto border-t border-rule-2 bg-paper px-4 pb-5 pt-3"
        >
          <div className="mb-2 flex items-center justify-between gap-4">
            <Dialog.Title className="font-naming text-[20px] font-semibold">{title}</Dialog.Title>
            <Dialog.Close className="min-h-11 px-3 font-bold">Close</Dialog.Close>
          </div>
          {children}
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}
