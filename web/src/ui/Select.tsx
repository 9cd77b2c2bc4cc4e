/** One of several, chosen from a list: Radix's select in our dress. */
import { Select as RadixSelect } from "radix-ui";
import { choiceGoesHome } from "./focus";

export type Option = string | { readonly value: string; readonly words: string };
type Props = {
  readonly id?: string;
  readonly label?: string;
  readonly options: readonly Option[];
  readonly value: string;
  readonly disabled?: boolean | undefined;
  readonly invalid?: boolean;
  readonly small?: boolean;
  readonly onChoose: (value: string) => void;
};

const valueOf = (option: Option): string => (typeof option === "string" ? option : option.value);
const wordsOf = (option: Option): string => (typeof option === "string" ? option : option.words);

export function Select({ id, label, options, value, disabled, invalid, small, onChoose }: Props) {
  // By their place in the list: a value may be empty, which the select keeps for "nothing chosen".
  const chosen = options.findIndex((option) => valueOf(option) === value);
  return (
    <RadixSelect.Root
      value={chosen < 0 ? "" : String(chosen)}
      disabled={disabled ?? false}
      onValueChange={(at) => {
        const option = options[Number(at)];
        if (at !== "" && option !== undefined) onChoose(valueOf(option));
      }}
    >
      <RadixSelect.Trigger
        id={id}
        aria-label={label}
        aria-invalid={invalid === true}
        className={`flex items-center justify-between gap-2 rounded-[4px] border border-rule-2 bg-sheet text-left text-ink disabled:text-ink-3 ${small === true ? "h-8 px-2" : "h-[41px] w-full px-3"}`}
      >
        <span className="truncate">
          <RadixSelect.Value />
        </span>
        <svg width="10" height="6" viewBox="0 0 10 6" aria-hidden className="shrink-0 fill-ink-2">
          <path d="M0 0h10L5 6z" />
        </svg>
      </RadixSelect.Trigger>
      <RadixSelect.Portal>
        <RadixSelect.Content
          data-choosing
          onCloseAutoFocus={choiceGoesHome}
          position="popper"
          sideOffset={2}
          className="z-[60] max-h-[min(320px,60vh)] min-w-[var(--radix-select-trigger-width)] overflow-hidden border border-rule-2 bg-sheet py-1"
        >
          <RadixSelect.Viewport>
            {options.map((option, i) => (
              <RadixSelect.Item
                key={valueOf(option)}
                value={String(i)}
                className="cursor-pointer px-3 py-1 data-[highlighted]:bg-paper data-[state=checked]:font-bold data-[highlighted]:outline-none"
              >
                <RadixSelect.ItemText>{wordsOf(option)}</RadixSelect.ItemText>
              </RadixSelect.Item>
            ))}
          </RadixSelect.Viewport>
        </RadixSelect.Content>
      </RadixSelect.Portal>
    </RadixSelect.Root>
  );
}
