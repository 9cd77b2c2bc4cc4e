import { type ChangeEvent, useState } from "react";
import { api, take } from "@/api/client";
import { openDocument } from "@/score/document";
import { useBarHere } from "@/score/cursor";
import { tryRequest } from "@/score/sending";
import { useDraft } from "@/ui/drafts";
import { InputDialog } from "@/ui/InputDialog";
import { Area } from "@/ui/parts";

/** Text tablature, pasted or from a file, written at the bars that it names or from the cursor's bar on. */
export function TabDialog({ onClose }: { onClose: () => void }) {
  const draft = useDraft(`tablature ${openDocument().bench?.solo_id ?? ""}`, { text: "" });
  const { text } = draft.value;
  const setText = (words: string) => draft.set({ text: words });
  const [named, setNamed] = useState(true);
  const bar = useBarHere()?.number ?? 1;
  const bringIn = (event: ChangeEvent<HTMLInputElement>) => {
    const file = event.target.files?.[0];
    event.target.value = "";
    if (file !== undefined) void file.text().then(setText);
  };
  const write = () =>
    tryRequest((solo_id) =>
      take(
        api.POST("/api/solos/{solo_id}/tablature", {
          params: { path: { solo_id } },
          body: { text, from_bar: named ? null : bar },
        }),
      ),
    );
  const choice = (label: string, value: boolean) => (
    <label className="flex items-center gap-2">
      <input
        type="radio"
        name="where"
        className="size-4 accent-[var(--ink)]"
        checked={named === value}
        onChange={() => setNamed(value)}
      />
      {label}
    </label>
  );
  return (
    <InputDialog
      wide
      title="Tablature as text"
      submit="Write it"
      disabled={text.trim() === ""}
      draft={draft}
      onSubmit={write}
      onClose={onClose}
    >
      <Area
        label="Paste it here"
        rows={13}
        autoFocus
        value={text}
        onChange={(event) => setText(event.target.value)}
        hint="A line for each string, the highest first, with | between the bars. With a count line above it the times are exact; without one they are read from the spacing."
      />
      <div className="flex flex-wrap gap-x-6 gap-y-2" role="radiogroup" aria-label="Where it goes">
        {choice("at the bars that it names", true)}
        {choice(`from bar ${bar} on, where the cursor is`, false)}
        <label className="cursor-pointer underline">
          open a file
          <input type="file" accept=".txt,.tab,text/*" className="sr-only" onChange={bringIn} />
        </label>
      </div>
      <p className="min-h-6">
        It goes in place of what its bars hold; notes that stand there as it says are left alone. One undo brings all
        back.
      </p>
    </InputDialog>
  );
}
