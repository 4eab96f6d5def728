import { TextRow } from '../../../ui/rows';

/** A whole number from 1 to `most`, typed; empty takes it away. */
export function NumberRow({
  label,
  placeholder,
  value,
  most,
  onChange,
}: {
  label: string;
  /** What holds where there is none. */
  placeholder: string;
  value: number | undefined;
  most: number;
  onChange: (value: number | undefined) => void;
}) {
  const isFine = (typed: string) => typed === '' || (/^[1-9]\d*$/.test(typed) && Number(typed) <= most);
  return (
    <TextRow
      label={label}
      placeholder={placeholder}
      value={value === undefined ? '' : String(value)}
      read={(typed) => (isFine(typed.trim()) ? null : `A number from 1 to ${most}.`)}
      onChange={(typed) => onChange(typed.trim() === '' ? undefined : Number(typed))}
    />
  );
}
