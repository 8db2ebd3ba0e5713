// One field of a page: an input for each kind of field there is; what may not be changed is to read only.
import type { ReactNode } from "react";
import { PlacePicker } from "../shared/PlacePicker";
import { PlainInput } from "../shared/PlainInput";
import { useLooksOnly } from "../shared/session";
import { INPUT } from "../shared/ui";
import { type Lock, lockWords } from "./Locks";
import { PicturePicker } from "./media/PicturePicker";
import { RichText } from "./RichText";
import type { PageField } from "./useDesk";

type FieldProps = {
  field: PageField;
  value: unknown;
  error?: string;
  lock?: Lock;
  onChange: (value: unknown) => void;
};
type InputProps = Omit<FieldProps, "lock"> & { id: string; shut: boolean; looks: boolean };

export function FieldInput({ field, value, error, lock, onChange }: FieldProps) {
  const looks = useLooksOnly();
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
        {shut && <span className="text-xs text-ink2">{lock ? "locked" : "to read only"}</span>}
      </label>
      {lock && <p className="mb-[2px] text-xs text-ink2">{lockWords(lock)}</p>}
      {input({ field, value, error: said || undefined, onChange, id, shut, looks })}
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

/** `error` names what describes the input, an error or help. */
function input({ field, value, error, onChange, id, shut, looks }: InputProps): ReactNode {
  const text = String(value ?? "");
  const { kind } = field;
  const described = { "aria-invalid": Boolean(error?.includes("-error")), "aria-describedby": error };
  if (kind === "rich" && !shut)
    return <RichText id={id} label={field.name} value={text} readOnly={looks} onChange={onChange} />;
  if (kind === "picture" && !shut)
    return <PicturePicker id={id} value={text} readOnly={looks} onChange={onChange} />;
  if ((kind === "reference" || kind === "document") && !shut && !looks)
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
  if (["rich", "reference", "picture", "document"].includes(kind)) {
    const shown = kind === "rich" ? text.replace(/<[^>]+>/g, "") : (field.shown ?? "");
    return <input id={id} {...described} className={INPUT} disabled={shut} readOnly value={shown} />;
  }
  return (
    <PlainInput
      id={id}
      kind={kind}
      choices={field.choices}
      value={value}
      shut={shut}
      readOnly={looks}
      invalid={described["aria-invalid"]}
      describedBy={error}
      onChange={onChange}
    />
  );
}
