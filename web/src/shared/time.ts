// Dates and times in plain words.
const DAY = 86_400_000;
const MONTHS = ["Jan", "Feb", "Mar", "Apr", "May", "Jun", "Jul", "Aug", "Sep", "Oct", "Nov", "Dec"];

/** "3 Nov", with the year when it is not this one. */
export function day(iso: string): string {
  const date = new Date(iso);
  const year = date.getFullYear() === new Date().getFullYear() ? "" : ` ${date.getFullYear()}`;
  return `${date.getDate()} ${MONTHS[date.getMonth()]}${year}`;
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
