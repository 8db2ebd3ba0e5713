// A labelled line or several lines of text, with what is wrong with it or a hint beneath.
import { INPUT, Labelled } from "./ui";

type TextProps = {
  label: string;
  value: string;
  onChange: (value: string) => void;
  max: number;
  hint?: string;
  error?: string;
};

export function TextField({ label, value, onChange, max, hint, error }: TextProps) {
  return (
    <Labelled label={label} hint={hint} error={error}>
      {(id, by) => (
        <input
          id={id}
          aria-describedby={by}
          value={value}
          maxLength={max}
          autoComplete="off"
          onChange={(event) => onChange(event.target.value)}
          className={INPUT}
        />
      )}
    </Labelled>
  );
}

export function TextArea({ label, value, onChange, max, hint, error, rows }: TextProps & { rows: number }) {
  return (
    <Labelled label={label} hint={hint} error={error}>
      {(id, by) => (
        <textarea
          id={id}
          aria-describedby={by}
          rows={rows}
          maxLength={max}
          value={value}
          onChange={(event) => onChange(event.target.value)}
          className={INPUT}
        />
      )}
    </Labelled>
  );
}

/** The password that somebody has. */
export function PasswordField({ label, value, onChange, error }: Omit<TextProps, "max" | "hint">) {
  return (
    <Labelled label={label} error={error}>
      {(id, by) => (
        <input
          id={id}
          aria-describedby={by}
          type="password"
          autoComplete="current-password"
          value={value}
          onChange={(event) => onChange(event.target.value)}
          className={INPUT}
        />
      )}
    </Labelled>
  );
}
