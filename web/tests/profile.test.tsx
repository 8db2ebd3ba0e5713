// @vitest-environment jsdom
// Fields of profiles: filled in by an input of their kind, and retired with a word where people are asked for them.
import { screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { useState } from "react";
import { expect, it, vi } from "vitest";
import { sentTo, serve, session, show } from "./serving";

const { EditField } = await import("../src/define/EditField");
const { ProfileFields, profileOf } = await import("../src/shared/who");

const asked = (key: string, kind: string, more = {}) => ({
  key,
  name: key,
  kind,
  choices: [],
  value: null,
  may_change: true,
  asked: true,
  ...more,
});
const PROFILE = [
  asked("watch", "choice", { choices: ["Day", "Night"], value: "Day" }),
  asked("swims", "yes"),
  asked("knots", "choices", { choices: ["Bowline", "Hitch"], value: ["Hitch"] }),
  asked("dues", "number", { may_change: false, value: 12 }),
];

function Filled() {
  const [values, setValues] = useState(profileOf(PROFILE));
  return (
    <>
      <ProfileFields values={values} onChange={setValues} profile={PROFILE} problem={null} />
      <output>{JSON.stringify(values)}</output>
    </>
  );
}

it("fills in a choice, a yes or no and several of some, and leaves what is closed", async () => {
  await show(<Filled />);
  const said = () => JSON.parse(screen.getByRole("status").textContent ?? "");
  expect(said()).toEqual({ watch: "Day", swims: "", knots: ["Hitch"] });
  await userEvent.selectOptions(await screen.findByLabelText("watch"), "Night");
  await userEvent.selectOptions(screen.getByLabelText("swims"), "no");
  await userEvent.click(screen.getByLabelText("Bowline"));
  expect(said()).toEqual({ watch: "Night", swims: "no", knots: ["Hitch", "Bowline"] });
  await userEvent.click(screen.getByLabelText("Hitch"));
  expect(said().knots).toEqual(["Bowline"]);
  expect(screen.getByLabelText("dues")).toHaveProperty("disabled", true);
  expect(screen.getByLabelText("dues")).toHaveProperty("value", "12");
});

it.each([true, false])(
  "retires a field at once unless people are asked for it: asked %s",
  async (isAsked) => {
    const field = { key: "boat", name: "Boat", kind: "text", help: "", required: false, choices: [] };
    const kind = { key: "account", name: "Profile", plural: "profiles", tree: null, version: 3, fields: [] };
    serve({ "GET /api/session": session(), "PATCH /api/kinds/account/fields/boat": kind });
    const onClose = vi.fn();
    const shown = { ...field, retired: false, mode: "open", asked: isAsked };
    await show(<EditField kind={kind as never} field={shown as never} onClose={onClose} />);
    const sent = () => sentTo("PATCH", "/api/kinds/account/fields/boat").map(({ body }) => body);
    await userEvent.click(await screen.findByRole("button", { name: "Retire it" }));
    if (isAsked) {
      expect(screen.getByRole("alert").textContent).toContain("People are asked for this");
      expect(sent()).toEqual([]);
      await userEvent.click(screen.getByRole("button", { name: "Retire it all the same" }));
    }
    await waitFor(() => expect(onClose).toHaveBeenCalled());
    expect(sent()).toEqual([{ retired: true }]);
  },
);
