// @vitest-environment jsdom
import { cleanup, render, screen } from "@testing-library/react";
import { userEvent } from "@testing-library/user-event";
import { useState } from "react";
import { afterEach, describe, expect, it } from "vitest";
import { DateInput } from "../src/shared/dates/DateInput";
import { writtenIn } from "../src/shared/time";

// Fetched before, or the first date would wait for it.
await import("../src/shared/dates/DateParts");

let last: string;

function Held({ value, moment, readOnly }: { value: string; moment?: boolean; readOnly?: boolean }) {
  const [held, hold] = useState(value);
  last = held;
  return (
    <>
      <span id="d-label">Until</span>
      <DateInput id="d" value={held} onChange={hold} moment={moment} readOnly={readOnly} />
    </>
  );
}

async function shown(value: string, rest: { moment?: boolean; readOnly?: boolean } = {}) {
  render(<Held value={value} {...rest} />);
  return screen.findByRole("group", { name: "Until" });
}

/** Marks that only tell in which direction a text runs are not read. */
function text(group: HTMLElement) {
  return group.textContent?.replace(/[\u2066-\u2069\u200e\u200f]/g, "");
}

describe("a date", () => {
  afterEach(() => {
    cleanup();
    writtenIn("en");
  });

  it.each([
    ["en", "31/12/2026"],
    ["de", "31.12.2026"],
    ["fi", "31.12.2026"],
    ["sv", "2026-12-31"],
    ["nl", "31-12-2026"],
  ])("is written as %s writes it", async (language, expected) => {
    writtenIn(language);
    expect(text(await shown("2026-12-31"))).toBe(expected);
  });

  it("is typed part by part", async () => {
    await shown("");
    await userEvent.click(screen.getByRole("spinbutton", { name: /day/ }));
    await userEvent.keyboard("02012099");
    expect(last).toBe("2099-01-02");
  });

  it("has a time of the day where it is a moment", async () => {
    await shown("2099-01-02T09:05", { moment: true });
    await userEvent.click(screen.getByRole("spinbutton", { name: /hour/ }));
    await userEvent.keyboard("1730");
    expect(last).toBe("2099-01-02T17:30");
  });

  it("is picked from a month, and the time stays", async () => {
    await shown("2099-01-02T09:05", { moment: true });
    await userEvent.click(screen.getByRole("button", { name: "Pick a day" }));
    await userEvent.click(await screen.findByRole("button", { name: /20 January 2099/ }));
    expect(last).toBe("2099-01-20T09:05");
    expect(screen.queryByText("January 2099")).toBeNull();
  });

  it("is taken away again", async () => {
    await shown("2099-01-02");
    await userEvent.click(screen.getByRole("button", { name: "Pick a day" }));
    await userEvent.click(await screen.findByRole("button", { name: "No day" }));
    expect(last).toBe("");
  });

  it("that is none is shown as none, and can be set", async () => {
    await shown("soon");
    await userEvent.click(screen.getByRole("spinbutton", { name: /day/ }));
    await userEvent.keyboard("02012099");
    expect(last).toBe("2099-01-02");
  });

  it("is only looked at while somebody stands in", async () => {
    await shown("2099-01-02", { readOnly: true });
    await userEvent.click(screen.getByRole("spinbutton", { name: /day/ }));
    await userEvent.keyboard("05");
    expect(last).toBe("2099-01-02");
    expect(screen.getByRole("button", { name: "Pick a day" }).hasAttribute("disabled")).toBe(true);
  });
});
