// From when and until when something holds, in the viewer's own time.
import { useId } from "react";
import { DateInput } from "../shared/dates/DateInput";
import { Chip } from "../shared/ui";

export const ZONE = Intl.DateTimeFormat().resolvedOptions().timeZone;

/** A moment as a field for local time has it. */
export function asLocal(iso: string): string {
  const at = new Date(iso);
  const two = (n: number) => String(n).padStart(2, "0");
  return `${String(at.getFullYear()).padStart(4, "0")}-${two(at.getMonth() + 1)}-${two(at.getDate())}T${two(at.getHours())}:${two(at.getMinutes())}`;
}

type MomentProps = {
  label: string;
  /** What no moment means, such as "No end". */
  none: string;
  value: string | null;
  onChange: (iso: string | null) => void;
  error?: string;
};

/** A moment, or none. */
export function Moment({ label, none, value, onChange, error }: MomentProps) {
  const id = useId();
  return (
    <div className="mb-2">
      <div className="flex flex-wrap items-center gap-1.5">
        <Chip on={value === null} onClick={() => onChange(null)}>
          {none}
        </Chip>
        <span id={`${id}-label`} className="sr-only">
          {label}
        </span>
        <DateInput
          id={id}
          moment
          describedBy={error ? `${id}-error` : undefined}
          invalid={Boolean(error)}
          value={value ? asLocal(value) : ""}
          onChange={(at) => onChange(at ? new Date(at).toISOString() : null)}
          className="w-[200px]!"
        />
      </div>
      {error && (
        <p id={`${id}-error`} role="alert" className="mt-1 text-xs text-bar">
          {error}
        </p>
      )}
    </div>
  );
}

type WhenProps = {
  starts: string | null;
  ends: string | null;
  onStarts: (iso: string | null) => void;
  onEnds: (iso: string | null) => void;
  error?: string;
};

export function When({ starts, ends, onStarts, onEnds, error }: WhenProps) {
  return (
    <fieldset className="mb-3">
      <legend className="mb-1.5 text-sm font-semibold">When</legend>
      <Moment label="From" none="From now" value={starts} onChange={onStarts} />
      <Moment label="Until" none="No end" value={ends} onChange={onEnds} error={error} />
      <p className="text-xs text-ink2">Your time: {ZONE.replaceAll("_", " ")}.</p>
    </fieldset>
  );
}
