/** The browser’s own file dialog, opened by a click on the element in `ref`; takes the same file twice in a row. */
import type { Ref } from "react";

interface FileInputProps {
  ref: Ref<HTMLInputElement>;
  label: string;
  accept: string;
  onFile: (file: File) => void;
}

export function FileInput({ ref, label, accept, onFile }: FileInputProps) {
  return (
    <input
      ref={ref}
      hidden
      type="file"
      accept={accept}
      aria-label={label}
      onChange={(event) => {
        const file = event.target.files?.[0];
        if (file) onFile(file);
        event.target.value = "";
      }}
    />
  );
}
