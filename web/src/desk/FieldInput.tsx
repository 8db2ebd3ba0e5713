// One field of a page: an input for each kind of field there is; what may not be changed is to read only.
import type { ReactNode } from "react";
import { useSession } from "../shared/session";
import { INPUT } from "../shared/ui";
import { PicturePicker } from "./PicturePicker";
import { PlacePicker } from "./PlacePicker";
import { RichText } from "./RichText";
import type { PageField } from "./useDesk";

type FieldProps = { field: PageField; value: unknown; error?: string; onChange: (value: unknown) => void };
type InputProps = FieldProps & { id: string; shut: boolean; standing: boolean };

export function FieldInput({ field, value, error, onChange }: FieldProps) {
  const standing = Boolean(useSession().data?.standing_in);
  const id = `field-${field.key}`;
  const shut = !field.may_change;
  const said = [error && `${id}-error`, field.help && `${id}-help`].filter(Boolean).join(" ");
  return (
    <div className="mb-2 px-[18px]">
      <label id={`${id}-label`} htmlFor={id} className="mb-[2px] flex justify-between text-read">
        <span>
          {field.name}
          {field.required && !shut && <span className="text-xs text-ink2"> required</span>}
        </span>
        {shut && <span className="text-xs text-ink2">to read only</span>}
      </label>
      {input({ field, value, error: said || undefined, onChange, id, shut, standing })}
      {field.help && (
        <p id={`${id}-help`} className="mt-[2px] text-xs text-ink2">
          {field.help}
        </p>
      )}
      {error && (
        <p id={`${id}-error`} role="alert" className="mt-[2px] text-xs text-bar">
          {error}
        </p>
      )}
    </div>
  );
}

const TYPES: Record<string, string> = { date: "date", moment: "datetime-local", link: "url" };

/** `error` names what describes the input, an error or help. */
function input({ field, value, error, onChange, id, shut, standing }: InputProps): ReactNode {
  const text = String(value ?? "");
  const common = {
    id,
    disabled: shut,
    readOnly: standing,
    "aria-invalid": Boolean(error?.includes("-error")),
    "aria-describedby": error,
    className: INPUT,
    value: text,
    onChange: (event: { target: { value: string } }) => onChange(event.target.value),
  };
  const { kind } = field;
  if (kind === "choice" || kind === "yes") {
    const choices = kind === "yes" ? ["yes", "no"] : field.choices;
    return (
      <select {...common} value={kind === "yes" ? yesOrNo(value) : text} disabled={shut || standing}>
        <option value="">not said</option>
        {choices.map((choice) => (
          <option key={choice}>{choice}</option>
        ))}
      </select>
    );
  }
  if (kind === "choices")
    return <Several id={id} field={field} value={value} shut={shut || standing} onChange={onChange} />;
  if (kind === "long") return <textarea {...common} rows={3} />;
  if (kind === "rich" && !shut)
    return <RichText id={id} label={field.name} value={text} readOnly={standing} onChange={onChange} />;
  if (kind === "rich") return <input {...common} value={text.replace(/<[^>]+>/g, "")} />;
  if (kind === "picture" && !shut)
    return <PicturePicker id={id} value={text} readOnly={standing} onChange={onChange} />;
  if ((kind === "reference" || kind === "document") && !shut && !standing)
    return (
      <PlacePicker
        id={id}
        tree={kind === "document" ? "media" : "content"}
        value={text}
        none="nothing"
        only={kind === "document" ? "document" : undefined}
        onPick={onChange}
      />
    );
  if (kind === "reference" || kind === "picture" || kind === "document")
    return <input {...common} value={field.shown ?? ""} readOnly />;
  return (
    <input {...common} type={TYPES[kind] ?? "text"} inputMode={kind === "number" ? "decimal" : undefined} />
  );
}

function yesOrNo(value: unknown): string {
  if (value === true || value === "yes") return "yes";
  return value === false || value === "no" ? "no" : "";
}

type SeveralProps = {
  id: string;
  field: PageField;
  value: unknown;
  shut: boolean;
  onChange: (value: unknown) => void;
};

function Several({ id, field, value, shut, onChange }: SeveralProps) {
  const on = Array.isArray(value) ? (value as string[]) : [];
  return (
    <fieldset id={id} aria-labelledby={`${id}-label`} className="flex flex-wrap gap-x-3">
      {field.choices.map((choice) => (
        <label key={choice} className="flex items-center gap-1.5 text-sm">
          <input
            type="checkbox"
            disabled={shut}
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
