// The parts of a date, each typed by itself, and the month that a day is picked from.
import {
  type CalendarDate,
  type CalendarDateTime,
  parseDate,
  parseDateTime,
  toCalendarDate,
  toCalendarDateTime,
} from "@internationalized/date";
import { CalendarDays } from "lucide-react";
import { Popover } from "radix-ui";
import { useState } from "react";
import { DateField, DateSegment, I18nProvider, DateInput as Typed } from "react-aria-components";
import { locale } from "../time";
import type { DateProps } from "./DateInput";
import { Month } from "./Month";

export default function DateParts(props: DateProps) {
  const { id, value, onChange, moment = false, shut, readOnly, invalid, describedBy, className = "" } = props;
  const [open, setOpen] = useState(false);
  const chosen = read(value, moment);
  const label = `${id}-label`;

  function pick(day: CalendarDate) {
    if (!moment) onChange(day.toString());
    else onChange(written(chosen && "hour" in chosen ? chosen.set(day) : toCalendarDateTime(day)));
    setOpen(false);
  }

  return (
    <I18nProvider locale={locale()}>
      <Popover.Root open={open} onOpenChange={setOpen}>
        <span className={`flex w-full items-stretch ${className}`}>
          <DateField
            id={id}
            aria-labelledby={label}
            aria-describedby={describedBy}
            value={chosen}
            granularity={moment ? "minute" : "day"}
            hourCycle={24}
            hideTimeZone
            shouldForceLeadingZeros
            isDisabled={shut}
            isReadOnly={readOnly}
            isInvalid={invalid}
            onChange={(day) => onChange(day ? written(day as CalendarDate | CalendarDateTime) : "")}
            className="min-w-0 flex-1"
          >
            <Typed className="flex rounded-l-[4px] border border-line2 bg-white px-[10px] py-[5px] text-sm whitespace-pre focus-within:outline-2 focus-within:outline-offset-2 focus-within:outline-rod data-disabled:bg-linen data-disabled:text-ink2">
              {(part) => (
                <DateSegment
                  segment={part}
                  className="figures rounded-[2px] outline-none data-focused:bg-rod data-focused:text-white data-placeholder:text-ink3 data-placeholder:data-focused:text-white"
                />
              )}
            </Typed>
          </DateField>
          <Popover.Trigger
            aria-label="Pick a day"
            disabled={shut || readOnly}
            className="rounded-r-[4px] border border-l-0 border-line2 bg-linen px-2 text-ink2 hover:bg-linen2 disabled:opacity-55"
          >
            <CalendarDays size={14} aria-hidden="true" />
          </Popover.Trigger>
        </span>
        <Popover.Portal>
          <Popover.Content
            align="end"
            sideOffset={4}
            aria-label="Pick a day"
            className="z-50 rounded-md border border-line bg-paper p-2.5 text-sm shadow-xl"
          >
            <Month
              chosen={chosen && toCalendarDate(chosen)}
              onPick={pick}
              onNone={() => {
                onChange("");
                setOpen(false);
              }}
            />
          </Popover.Content>
        </Popover.Portal>
      </Popover.Root>
    </I18nProvider>
  );
}

/** What is written, or nothing where that is no date. */
function read(text: string, moment: boolean): CalendarDate | CalendarDateTime | null {
  try {
    if (!text) return null;
    return moment ? parseDateTime(text) : parseDate(text.slice(0, 10));
  } catch {
    return null;
  }
}

/** To the minute, as fields for days and moments have always written it. */
function written(date: CalendarDate | CalendarDateTime): string {
  return date.toString().slice(0, 16);
}
