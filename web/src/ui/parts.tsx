/** Radix parts and plain controls in our dress; they know no music. */
import { Dialog as RadixDialog, DropdownMenu, Tabs as RadixTabs, ToggleGroup } from "radix-ui";
import type { ButtonHTMLAttributes, InputHTMLAttributes, ReactNode, TextareaHTMLAttributes } from "react";
import { useEffect, useId, useRef } from "react";
import { keysGoHome, menuGoesHome, swallowSecondClick } from "./focus";
import { type Option, Select } from "./Select";

const classes = (...names: (string | false | undefined)[]): string => names.filter(Boolean).join(" ");

type ButtonProps = ButtonHTMLAttributes<HTMLButtonElement> & {
  strong?: boolean;
  quiet?: boolean;
  size?: keyof typeof SIZES;
};
const SIZES = { usual: "px-4 py-2", narrow: "px-3 py-2", small: "px-3 py-1" } as const;

export function Button({ strong, quiet, size = "usual", className, ...rest }: ButtonProps) {
  return (
    <button
      type="button"
      className={classes(
        "rounded-[5px] font-bold",
        SIZES[size],
        strong
          ? "bg-ink text-paper disabled:bg-rule-2"
          : quiet
            ? "text-ink-2 underline-offset-4 hover:underline"
            : "border border-rule-2 bg-sheet hover:border-ink",
        className,
      )}
      {...rest}
    />
  );
}

type FieldProps = {
  label: string;
  hint?: ReactNode;
  fault?: string | undefined;
  /** In one line with its label, and as narrow as it may be. */
  inline?: boolean | undefined;
};

function Around({ label, hint, fault, inline, id, children }: FieldProps & { id: string; children: ReactNode }) {
  return (
    <div className={inline === true ? "flex items-center gap-2" : "flex flex-col gap-1"}>
      <label htmlFor={id} className="font-bold text-ink-2">
        {label}
      </label>
      {children}
      {fault ? (
        <p id={`${id}-fault`} role="alert" className="text-[14px] font-bold text-doubt">
          {fault}
        </p>
      ) : (
        hint && <p className="text-[13px] text-ink-3">{hint}</p>
      )}
    </div>
  );
}

const box = "min-h-[41px] w-full rounded-[4px] border border-rule-2 bg-sheet px-3 py-2 text-ink placeholder:text-ink-3";

const line = "h-8 w-32 rounded-[4px] border border-rule-2 bg-sheet px-2 text-ink placeholder:text-ink-3";

export function Field({ label, hint, fault, inline, ...rest }: FieldProps & InputHTMLAttributes<HTMLInputElement>) {
  const id = useId();
  return (
    <Around label={label} hint={hint} fault={fault} inline={inline} id={id}>
      <input id={id} className={inline === true ? line : box} aria-invalid={fault !== undefined} {...rest} />
    </Around>
  );
}

export function Area({ label, hint, fault, ...rest }: FieldProps & TextareaHTMLAttributes<HTMLTextAreaElement>) {
  const id = useId();
  return (
    <Around label={label} hint={hint} fault={fault} id={id}>
      <textarea
        id={id}
        className={classes(box, "font-mono leading-relaxed")}
        spellCheck={false}
        aria-invalid={fault !== undefined}
        {...rest}
      />
    </Around>
  );
}

type ChooseProps = FieldProps & {
  options: readonly Option[];
  value: string;
  disabled?: boolean;
  onChoose: (value: string) => void;
};

export function Choose({ label, hint, fault, ...rest }: ChooseProps) {
  const id = useId();
  return (
    <Around label={label} hint={hint} fault={fault} id={id}>
      <Select id={id} invalid={fault !== undefined} {...rest} />
    </Around>
  );
}

/** Something that is so or not. */
export function Tick({ label, on, onTick }: { label: string; on: boolean; onTick: (on: boolean) => void }) {
  return (
    <label className="flex min-h-9 items-center gap-3 font-bold">
      <input type="checkbox" className="size-5" checked={on} onChange={(event) => onTick(event.target.checked)} />
      {label}
    </label>
  );
}

type DialogProps = {
  open: boolean;
  onOpenChange: (open: boolean) => void;
  title: string;
  wide?: boolean;
  children: ReactNode;
};

export function Dialog({ open, onOpenChange, title, wide, children }: DialogProps) {
  useEffect(() => (open ? swallowSecondClick : undefined), [open]);
  return (
    <RadixDialog.Root open={open} onOpenChange={onOpenChange}>
      <RadixDialog.Portal>
        <RadixDialog.Overlay className="fixed inset-0 z-40 bg-ink/30" />
        <RadixDialog.Content
          aria-describedby={undefined}
          onCloseAutoFocus={keysGoHome}
          className={classes(
            "fixed left-1/2 top-1/2 z-50 max-h-[92vh] -translate-x-1/2 -translate-y-1/2 overflow-auto border border-rule-2 bg-paper p-6",
            wide ? "w-[min(980px,96vw)]" : "w-[min(480px,94vw)]",
          )}
        >
          <RadixDialog.Title className="mb-4 font-naming text-[24px] font-semibold">{title}</RadixDialog.Title>
          {children}
        </RadixDialog.Content>
      </RadixDialog.Portal>
    </RadixDialog.Root>
  );
}

export function Menu({ label, items }: { label: string; items: readonly { name: string; act: () => void }[] }) {
  return (
    <DropdownMenu.Root>
      <DropdownMenu.Trigger className="rounded-[4px] px-2 py-1 font-bold text-ink-2 hover:bg-sheet">
        {label}
      </DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content
          align="end"
          onCloseAutoFocus={menuGoesHome}
          className="z-50 min-w-40 border border-rule-2 bg-sheet py-1"
        >
          {items.map((item) => (
            <DropdownMenu.Item
              key={item.name}
              onSelect={item.act}
              className="cursor-pointer px-4 py-2 data-[highlighted]:bg-paper data-[highlighted]:outline-none"
            >
              {item.name}
            </DropdownMenu.Item>
          ))}
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  );
}

type StairProps = {
  label: string;
  rungs: readonly number[];
  value: number;
  sounding: boolean;
  onChange: (value: number) => void;
};

/** Speed as a stair: a step a rung, higher when faster; those below the chosen one are climbed. */
export function Stair({ label, rungs, value, sounding, onChange }: StairProps) {
  const nearest = rungs.reduce(
    (best, rung) => (Math.abs(rung - value) < Math.abs(best - value) ? rung : best),
    rungs[0] ?? 0,
  );
  const highest = Math.max(...rungs);
  return (
    <ToggleGroup.Root
      type="single"
      aria-label={label}
      value={String(nearest)}
      onValueChange={(next) => next && onChange(Number(next))}
      className="flex items-end gap-[3px]"
    >
      {rungs.map((rung) => (
        <ToggleGroup.Item
          key={rung}
          value={String(rung)}
          aria-label={`${rung / 10} %`}
          className="group flex h-[58px] w-[31px] flex-col justify-end text-[13px]"
        >
          <span
            className={classes(
              "block w-full",
              rung === nearest ? (sounding ? "bg-sound" : "bg-ink") : rung < nearest ? "bg-ink-3" : "bg-tint",
            )}
            style={{ height: 4 + (34 * rung) / highest }}
          />
          <span className={classes("leading-[18px]", rung === nearest ? "font-bold text-ink" : "text-ink-2")}>
            {rung / 10}
          </span>
        </ToggleGroup.Item>
      ))}
    </ToggleGroup.Root>
  );
}

export function Key({ children }: { children: ReactNode }) {
  return <kbd className="key">{children}</kbd>;
}

/** A text with some stretches marked behind it, each `[from, to)` in letters. */
export function MarkedArea({
  label,
  marks,
  ...rest
}: FieldProps & {
  marks: readonly (readonly [number, number])[];
  value: string;
} & TextareaHTMLAttributes<HTMLTextAreaElement>) {
  const id = useId();
  const behind = useRef<HTMLDivElement>(null);
  const parts: ReactNode[] = [];
  let at = 0;
  for (const [from, to] of [...marks].sort((a, b) => a[0] - b[0])) {
    if (from < at) continue;
    parts.push(
      rest.value.slice(at, from),
      <mark
        key={from}
        className="rounded-[2px] bg-doubt/25 text-transparent underline decoration-doubt decoration-wavy decoration-2 underline-offset-4"
      >
        {rest.value.slice(from, to) || " "}
      </mark>,
    );
    at = to;
  }
  parts.push(rest.value.slice(at));
  const text = "px-3 py-2 font-mono text-[15px] leading-[22px] whitespace-pre-wrap break-words";
  return (
    <Around label={label} id={id}>
      <div className="relative">
        <div
          ref={behind}
          aria-hidden
          className={classes(
            "pointer-events-none absolute inset-0 overflow-hidden rounded-[4px] border border-transparent bg-sheet text-transparent",
            text,
          )}
        >
          {parts}
        </div>
        <textarea
          id={id}
          spellCheck={false}
          aria-invalid={marks.length > 0}
          className={classes(
            "relative w-full rounded-[4px] border border-rule-2 bg-transparent text-ink placeholder:text-ink-3",
            text,
          )}
          onScroll={(event) => {
            behind.current?.scrollTo(0, event.currentTarget.scrollTop);
          }}
          {...rest}
        />
      </div>
    </Around>
  );
}

/** Parts of a panel, one at a time; what stands beside them stays. */
export function Tabs({
  label,
  tabs,
  children,
}: {
  label: string;
  tabs: readonly { name: string; body: ReactNode }[];
  children?: ReactNode;
}) {
  return (
    <RadixTabs.Root
      defaultValue="part-0"
      orientation="vertical"
      className="grid min-h-0 grid-cols-[190px_minmax(0,1fr)] max-sm:grid-cols-1"
    >
      <div className="flex min-h-0 flex-col gap-2 overflow-y-auto border-r border-rule p-3 max-sm:border-r-0">
        <RadixTabs.List aria-label={label} className="flex flex-col">
          {tabs.map((tab, i) => (
            <RadixTabs.Trigger
              key={tab.name}
              value={`part-${i}`}
              className="rounded-[4px] border-l-4 border-transparent px-3 py-1 text-left font-bold text-ink-2 hover:bg-paper data-[state=active]:border-ink data-[state=active]:bg-paper data-[state=active]:text-ink"
            >
              {tab.name}
            </RadixTabs.Trigger>
          ))}
        </RadixTabs.List>
        {children}
      </div>
      {tabs.map((tab, i) => (
        <RadixTabs.Content key={tab.name} value={`part-${i}`} className="min-h-0 overflow-y-auto px-5 py-3">
          {tab.body}
        </RadixTabs.Content>
      ))}
    </RadixTabs.Root>
  );
}
