/** Yes or no. */
type Props = {
  label: string;
  value: boolean;
  title?: string;
  disabled?: boolean;
  onApply: (v: boolean) => void;
};

export function FlagField({ label, value, title, disabled, onApply }: Props) {
  return (
    <label className="quiet check" title={title}>
      <input
        type="checkbox"
        checked={value}
        disabled={disabled}
        onChange={(e) => onApply(e.currentTarget.checked)}
      />{' '}
      {label}
    </label>
  );
}
