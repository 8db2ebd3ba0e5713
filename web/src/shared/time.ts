// Dates and times in plain words; days as the reader's language writes them.
const DAY = 86_400_000;
const MONTHS = ["Jan", "Feb", "Mar", "Apr", "May", "Jun", "Jul", "Aug", "Sep", "Oct", "Nov", "Dec"];

let language = "en";

/** Says in which language days are written from now on. */
export function writtenIn(spoken: string) {
  language = spoken;
}

/** The reader's language as what formats dates knows it. */
export function locale(): string {
  return language === "en" ? "en-GB" : language;
}

/** "3 Nov", with the year when it is not this one. */
export function day(iso: string): string {
  const date = new Date(iso);
  const thisYear = date.getFullYear() === new Date().getFullYear();
  if (language === "en")
    return `${date.getDate()} ${MONTHS[date.getMonth()]}${thisYear ? "" : ` ${date.getFullYear()}`}`;
  const year = thisYear ? undefined : "numeric";
  return date.toLocaleDateString(language, { day: "numeric", month: "short", year });
}

export function clock(iso: string): string {
  const date = new Date(iso);
  return `${String(date.getHours()).padStart(2, "0")}:${String(date.getMinutes()).padStart(2, "0")}`;
}

/** "today", "5 d", "3 w", "7 mo", or "never". */
export function since(iso: string | null): string {
  if (!iso) return "never";
  const days = Math.floor((Date.now() - new Date(iso).getTime()) / DAY);
  if (days < 1) return "today";
  if (days < 14) return `${days} d`;
  if (days < 60) return `${Math.floor(days / 7)} w`;
  return `${Math.floor(days / 30)} mo`;
}

/** "today at 08:10", "yesterday at 17:30", or "on 3 Nov". */
export function when(iso: string): string {
  const days = Math.round((midnight(new Date()) - midnight(new Date(iso))) / DAY);
  if (days === 0) return `today at ${clock(iso)}`;
  return days === 1 ? `yesterday at ${clock(iso)}` : `on ${day(iso)}`;
}

function midnight(date: Date): number {
  return new Date(date.getFullYear(), date.getMonth(), date.getDate()).getTime();
}

export function count(n: number, one: string, many = `${one}s`): string {
  return `${n} ${n === 1 ? one : many}`;
}
