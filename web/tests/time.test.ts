// Dates and times in plain words.
import { afterEach, beforeEach, expect, test, vi } from "vitest";
import { clock, count, day, since, when, writtenIn } from "../src/shared/time";

beforeEach(() => vi.useFakeTimers({ now: new Date(2026, 10, 3, 9, 30) }));
afterEach(() => {
  vi.useRealTimers();
  writtenIn("en");
});

const ago = (days: number) => new Date(Date.now() - days * 86_400_000).toISOString();

test("a day of this year goes without it", () => {
  expect(day(new Date(2026, 0, 9).toISOString())).toBe("9 Jan");
  expect(day(new Date(2027, 11, 31).toISOString())).toBe("31 Dec 2027");
});

test.each([
  ["de", "9. Jan.", "31. Dez. 2027"],
  ["fr", "9 janv.", "31 déc. 2027"],
  ["nl", "9 jan", "31 dec 2027"],
])("as %s writes it", (language, near, far) => {
  writtenIn(language);
  expect(day(new Date(2026, 0, 9).toISOString())).toBe(near);
  expect(day(new Date(2027, 11, 31).toISOString())).toBe(far);
});

test("times have two digits", () => {
  expect(clock(new Date(2026, 10, 3, 7, 5).toISOString())).toBe("07:05");
});

test.each([
  [0.5, "today"],
  [1, "1 d"],
  [13.9, "13 d"],
  [14, "2 w"],
  [59, "8 w"],
  [60, "2 mo"],
])("%d days ago", (days, words) => {
  expect(since(ago(days))).toBe(words);
});

test.each([
  [new Date(2026, 10, 3, 8, 10), "today at 08:10"],
  [new Date(2026, 10, 3, 0, 0), "today at 00:00"],
  [new Date(2026, 10, 2, 23, 59), "yesterday at 23:59"],
  [new Date(2026, 10, 1, 23, 59), "on 1 Nov"],
  [new Date(2025, 10, 3, 9, 30), "on 3 Nov 2025"],
])("by the days of the calendar: %s", (moment, words) => {
  expect(when(moment.toISOString())).toBe(words);
});

test("whoever was never here", () => {
  expect(since(null)).toBe("never");
});

test("one, many and none", () => {
  expect([0, 1, 2].map((n) => count(n, "role"))).toEqual(["0 roles", "1 role", "2 roles"]);
  expect([1, 2].map((n) => count(n, "loses", "lose"))).toEqual(["1 loses", "2 lose"]);
});
