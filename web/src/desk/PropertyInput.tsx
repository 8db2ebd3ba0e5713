// What asks for one property of a part: drawn from its description alone.
import { useState } from "react";
import type { Shapes } from "../api/client";
import { INPUT } from "../shared/ui";
import { PicturePicker } from "./media/PicturePicker";
import { RichText } from "./RichText";

type Property = Shapes["PropertyShape"];

type InputProps = {
  property: Property;
  value: unknown;
  readOnly: boolean;
  error?: string;
  onChange: (value: unknown) => void;
};

/** One property of a part, asked for as its kind and choices say. */
export function PropertyInput({ property, value, readOnly, error, onChange }: InputProps) {
  const id = `property-${property.key}`;
  return (
    <div className="mb-1.5">
      {property.kind !== "yes" && (
        <label id={`${id}-label`} htmlFor={id} className="text-xs text-ink2">
          {property.name}
        </label>
      )}
      <Control id={id} property={property} value={value} readOnly={readOnly} onChange={onChange} />
      {error && (
        <p role="alert" className="text-xs text-bar">
          {error}
        </p>
      )}
    </div>
  );
}

type ControlProps = Omit<InputProps, "error"> & { id: string };

function Control({ id, property, value, readOnly, onChange }: ControlProps) {
  const { name: label, kind, choices } = property;
  if (kind === "choice") {
    return (
      <select
        id={id}
        disabled={readOnly}
        value={String(value ?? choices[0]?.value)}
        onChange={(event) => onChange(choices.find((one) => String(one.value) === event.target.value)?.value)}
        className={INPUT}
      >
        {choices.map((one) => (
          <option key={String(one.value)} value={String(one.value)}>
            {one.name}
          </option>
        ))}
      </select>
    );
  }
  if (kind === "rich")
    return (
      <RichText id={id} label={label} value={String(value ?? "")} readOnly={readOnly} onChange={onChange} />
    );
  if (kind === "picture")
    return <PicturePicker id={id} value={String(value ?? "")} readOnly={readOnly} onChange={onChange} />;
  if (kind === "yes") {
    return (
      <label className="flex items-center gap-2 text-sm">
        <input
          type="checkbox"
          disabled={readOnly}
          checked={Boolean(value)}
          onChange={(e) => onChange(e.target.checked)}
        />
        {label}
      </label>
    );
  }
  if (kind === "rows") return <Rows id={id} value={value} readOnly={readOnly} onChange={onChange} />;
  return (
    <input
      id={id}
      type={kind === "number" ? "number" : "text"}
      readOnly={readOnly}
      value={String(value ?? "")}
      onChange={(e) => onChange(kind === "number" ? Number(e.target.value) : e.target.value)}
      className={INPUT}
    />
  );
}

const inLines = (rows: string[][]) => rows.map((row) => row.join(" | ")).join("\n");
/** A row to a line, but for empty lines at the end. Cells are parted by bars, or by tabs, as a spreadsheet gives them. */
function inRows(text: string): string[][] {
  const lines = text.replace(/\n\s*$/, "");
  if (!lines.trim()) return [];
  return lines.split("\n").map((line) => line.split(/[|\t]/).map((cell) => cell.trim()));
}

/** A table as lines of text. What is typed stays as typed while it means the rows there are. */
function Rows({ id, value, readOnly, onChange }: Omit<ControlProps, "property">) {
  const rows = (value as string[][]) ?? [];
  const [typed, setTyped] = useState("");
  return (
    <>
      <textarea
        id={id}
        aria-describedby={`${id}-hint`}
        readOnly={readOnly}
        rows={5}
        value={inLines(inRows(typed)) === inLines(rows) ? typed : inLines(rows)}
        onChange={(event) => {
          setTyped(event.target.value);
          onChange(inRows(event.target.value));
        }}
        className={INPUT}
      />
      <p id={`${id}-hint`} className="text-xs text-ink2">
        One row to a line, a bar | between cells.
      </p>
    </>
  );
}
