// An input for each kind of field that names no page and holds no markup: on the desk and in profiles.
import type { ReactNode } from "react";
import { DateInput } from "./dates/DateInput";
import { INPUT } from "./ui";

type PlainProps = {
  id: string;
  kind: string;
  choices: string[];
  value: unknown;
  /** It may not be changed. */
  shut?: boolean;
  /** It is not changed now: whoever looks is standing in. */
  readOnly?: boolean;
  invalid?: boolean;
  describedBy?: string;
  onChange: (value: unknown) => void;
};

export function PlainInput(props: PlainProps): ReactNode {
  const { id, kind, choices, value, shut = false, readOnly = false, invalid, describedBy, onChange } = props;
  const text = String(value ?? "");
  const common = {
    id,
    disabled: shut,
    readOnly,
    "aria-invalid": Boolean(invalid),
    "aria-describedby": describedBy,
    className: INPUT,
    value: text,
    onChange: (event: { target: { value: string } }) => onChange(event.target.value),
  };
  if (kind === "choice" || kind === "yes") {
    return (
      <select {...common} value={kind === "yes" ? yesOrNo(value) : text} disabled={shut || readOnly}>
        <option value="">not said</option>
        {(kind === "yes" ? ["yes", "no"] : choices).map((choice) => (
          <option key={choice}>{choice}</option>
        ))}
      </select>
    );
  }
  if (kind === "choices") return <Several {...props} />;
  if (kind === "date" || kind === "moment") {
    return <DateInput {...props} value={text} moment={kind === "moment"} />;
  }
  if (kind === "long") return <textarea {...common} rows={3} />;
  return (
    <input
      {...common}
      type={kind === "link" ? "url" : "text"}
      inputMode={kind === "number" ? "decimal" : undefined}
    />
  );
}

function yesOrNo(value: unknown): string {
  if (value === true || value === "yes") return "yes";
  return value === false || value === "no" ? "no" : "";
}

function Several({ id, choices, value, shut, readOnly, onChange }: PlainProps) {
  const on = Array.isArray(value) ? (value as string[]) : [];
  return (
    <fieldset id={id} aria-labelledby={`${id}-label`} className="flex flex-wrap gap-x-3">
      {choices.map((choice) => (
        <label key={choice} className="flex items-center gap-1.5 text-sm">
          <input
            type="checkbox"
            disabled={shut || readOnly}
            checked={on.includes(choice)}
            onChange={() =>
              onChange(on.includes(choice) ? on.filter((one) => one !== choice) : [...on, choice])
            }
          />
          {choice}
        </label>
      ))}
    </fieldset>
  );
}
