/** Numbers in order, typed with spaces or semicolons between them. */
import { short } from '../format';
import { TextField } from './TextField';

type Props = {
  label: string;
  title?: string;
  value: number[];
  disabled?: boolean;
  onApply: (value: number[]) => void;
};

export function NumbersField({ value, onApply, ...common }: Props) {
  const take = (text: string) => {
    const found = text
      .split(/[\s;]+/)
      .filter(Boolean)
      .map((t) => Number(t.replace(',', '.')));
    if (found.every(Number.isFinite)) onApply(found);
  };
  return <TextField {...common} value={value.map((v) => short(v)).join('; ')} onApply={take} />;
}
