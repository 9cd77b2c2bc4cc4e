import { type ReactNode, useRef } from "react";

/** A hidden field for one file, and what opens it. */
export const useFile = (
  label: string,
  accept: string,
  onFile: (file: File) => void,
): readonly [field: ReactNode, choose: () => void] => {
  const input = useRef<HTMLInputElement>(null);
  return [
    <input
      key={label}
      ref={input}
      type="file"
      aria-label={label}
      accept={accept}
      className="sr-only"
      tabIndex={-1}
      onChange={(event) => {
        const file = event.target.files?.[0];
        event.target.value = "";
        if (file !== undefined) onFile(file);
      }}
    />,
    () => input.current?.click(),
  ];
};
