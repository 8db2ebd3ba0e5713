// What is chosen alike wherever one stands in or is laid beside others: chips under a name, and the moment.
import type { ReactNode } from "react";
import { useChangeSet } from "../changes/changeSet";
import { DateInput } from "../dates/DateInput";
import { Chip, Labelled } from "../ui";
import { momentWritten } from "./moment";

export type When = "now" | "staged" | "at";

type ChipsProps = { label: string; hint?: string; children: ReactNode };

export function Chips({ label, hint, children }: ChipsProps) {
  return (
    <fieldset className="mb-3">
      <legend className="mb-1 text-sm font-semibold">{label}</legend>
      <div className="flex flex-wrap gap-1.5">{children}</div>
      {hint && <p className="mt-1 text-xs text-ink2">{hint}</p>}
    </fieldset>
  );
}

/** Whether somebody made up wrote everything, or nothing. */
export function Wrote({ own, onChange }: { own: boolean; onChange: (own: boolean) => void }) {
  return (
    <Chips label="Written by them">
      <Chip on={!own} onClick={() => onChange(false)}>
        Nothing
      </Chip>
      <Chip on={own} onClick={() => onChange(true)}>
        Everything
      </Chip>
    </Chips>
  );
}

const MOMENTS = [
  { name: "A week ago", days: -7 },
  { name: "In a week", days: 7 },
  { name: "In a month", days: 30 },
  { name: "In a year", days: 365 },
];

type WhenProps = {
  when: When;
  onWhen: (when: When) => void;
  moment: string;
  onMoment: (moment: string) => void;
  error?: string;
};

/** Now, with what is staged, or at a moment; whether that is past. */
export function WhenChoice({ when, onWhen, moment, onMoment, error }: WhenProps) {
  const staged = useChangeSet().data?.operations.length ?? 0;
  return (
    <>
      <Chips label="When" hint={when === "at" ? (isPast(moment) ? PAST : COMING) : undefined}>
        <Chip on={when === "now"} onClick={() => onWhen("now")}>
          Now
        </Chip>
        {staged > 0 && (
          <Chip on={when === "staged"} onClick={() => onWhen("staged")}>
            With {staged} staged
          </Chip>
        )}
        <Chip on={when === "at"} onClick={() => onWhen("at")}>
          On a date
        </Chip>
      </Chips>
      {when === "at" && (
        <>
          <Labelled label="Which moment" error={error}>
            {(id, by) => <DateInput id={id} describedBy={by} moment value={moment} onChange={onMoment} />}
          </Labelled>
          <div className="mb-3 flex flex-wrap gap-1.5">
            {MOMENTS.map(({ name, days }) => (
              <Chip
                key={days}
                on={moment === momentWritten(days)}
                onClick={() => onMoment(momentWritten(days))}
              >
                {name}
              </Chip>
            ))}
          </div>
        </>
      )}
    </>
  );
}

export function isPast(moment: string): boolean {
  return moment !== "" && new Date(moment).getTime() < Date.now();
}

const PAST = "Roles, groups and limits as they were then, over the pages as they are now.";
const COMING = "What begins by then has begun, and what ends by then is over.";
