/** A button that lets files be chosen from the disk. */
import { useRef } from 'react';

type Props = {
  word: string;
  /** What the chooser itself is called. */
  label: string;
  accept: string;
  several?: boolean;
  title?: string;
  onFiles: (files: File[]) => void;
};

export function FileButton({ word, label, accept, several = false, title, onFiles }: Props) {
  const chooser = useRef<HTMLInputElement>(null);
  return (
    <>
      <button type="button" className="plain" title={title} onClick={() => chooser.current?.click()}>
        {word}
      </button>
      <input
        ref={chooser}
        type="file"
        hidden
        multiple={several}
        accept={accept}
        aria-label={label}
        onChange={(e) => {
          const files = [...(e.currentTarget.files ?? [])];
          e.currentTarget.value = '';
          onFiles(files);
        }}
      />
    </>
  );
}
