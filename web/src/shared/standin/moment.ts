// Moments as the input for a date and a time writes them: in the reader's own time, without seconds.

const DAY = 86_400_000;

/** Some days from now. */
export function momentWritten(days: number): string {
  const at = new Date(Date.now() + days * DAY);
  return new Date(at.getTime() - at.getTimezoneOffset() * 60_000).toISOString().slice(0, 16);
}

/** The same as it is sent. */
export function momentIn(written: string): string {
  return new Date(written).toISOString();
}
