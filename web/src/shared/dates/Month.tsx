// A month to pick a day from.
import { type CalendarDate, getLocalTimeZone, today } from "@internationalized/date";
import { ChevronLeft, ChevronRight } from "lucide-react";
import {
  Button as AriaButton,
  Calendar,
  CalendarCell,
  CalendarGrid,
  CalendarGridBody,
  CalendarGridHeader,
  CalendarHeaderCell,
  Heading,
} from "react-aria-components";
import { Button } from "../ui";

type MonthProps = { chosen: CalendarDate | null; onPick: (day: CalendarDate) => void; onNone: () => void };

const TURN = "rounded p-1.5 text-ink2 hover:bg-linen2";

export function Month({ chosen, onPick, onNone }: MonthProps) {
  return (
    <>
      <Calendar value={chosen} onChange={onPick} aria-label="Days" autoFocus firstDayOfWeek="mon">
        <header className="mb-1.5 flex items-center">
          <AriaButton slot="previous" className={TURN}>
            <ChevronLeft size={15} aria-hidden="true" />
          </AriaButton>
          <Heading className="flex-1 text-center text-sm! font-semibold first-letter:uppercase" />
          <AriaButton slot="next" className={TURN}>
            <ChevronRight size={15} aria-hidden="true" />
          </AriaButton>
        </header>
        <CalendarGrid weekdayStyle="short">
          <CalendarGridHeader>
            {(name) => (
              <CalendarHeaderCell className="pb-1 text-xs font-normal text-ink2">{name}</CalendarHeaderCell>
            )}
          </CalendarGridHeader>
          <CalendarGridBody>
            {(day) => (
              <CalendarCell
                date={day}
                className="figures m-px grid size-[30px] cursor-pointer place-items-center rounded-[4px] hover:bg-chosen data-outside-month:hidden data-selected:bg-rod data-selected:font-semibold data-selected:text-white data-today:underline data-today:decoration-brass data-today:decoration-2 data-today:underline-offset-4"
              />
            )}
          </CalendarGridBody>
        </CalendarGrid>
      </Calendar>
      <footer className="mt-2 flex justify-between border-t border-linen2 pt-2">
        <Button onClick={() => onPick(today(getLocalTimeZone()))}>Today</Button>
        <Button onClick={onNone}>No day</Button>
      </footer>
    </>
  );
}
