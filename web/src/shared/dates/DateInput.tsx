// A day, or a moment of one, written and picked as the reader's language writes it.
import { lazy, Suspense } from "react";
import { INPUT } from "../ui";

export type DateProps = {
  /** That of the group of parts; what names it has this id and "-label". */
  id: string;
  /** "2026-12-31", with `moment` "2026-12-31T17:30"; empty is none. */
  value: string;
  onChange: (value: string) => void;
  moment?: boolean;
  /** It may not be changed. */
  shut?: boolean;
  /** It is not changed now. */
  readOnly?: boolean;
  invalid?: boolean;
  describedBy?: string;
  className?: string;
};

/** Calendars of all languages are fetched with the first date that a screen asks for. */
const DateParts = lazy(() => import("./DateParts"));

export function DateInput(props: DateProps) {
  return (
    <Suspense fallback={<span className={`block ${INPUT} ${props.className ?? ""}`}>&nbsp;</span>}>
      <DateParts {...props} />
    </Suspense>
  );
}
