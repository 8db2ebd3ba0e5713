// @vitest-environment jsdom
// The page on the desk, drawn in a document without a browser: what no browser is needed for.
import { act, screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { useState } from "react";
import { afterEach, describe, expect, it, vi } from "vitest";
import { CATALOGUE, heading, deskPage as page, sentTo, serve, session, show } from "./serving";

const { ComponentForm } = await import("../src/desk/ComponentForm");
const { DeskTree } = await import("../src/desk/DeskTree");
const { DrawnPart } = await import("../src/desk/DrawnPart");
const { PropertyInput } = await import("../src/desk/PropertyInput");
const { PagePane } = await import("../src/desk/PagePane");
const { keys } = await import("../src/shared/keys");

const POSTS = { "GET /api/desk/pages/loft/posts": [], "GET /api/desk/pages/loft/listing": {} };

/** A table asked for, and what it came to. */
function AskedTable() {
  const [rows, setRows] = useState<unknown>([["Berth", "Water"]]);
  const property = { key: "rows", name: "Rows", facet: "wording", kind: "rows" as const, choices: [] };
  return (
    <>
      <PropertyInput property={property} value={rows} readOnly={false} onChange={setRows} />
      <output>{JSON.stringify(rows)}</output>
      <button type="button" onClick={() => setRows([["Undone"]])}>
        Undo
      </button>
    </>
  );
}

// What is typed and not saved is kept: not from one test to the next.
afterEach(() => localStorage.clear());

describe("a page on the desk", () => {
  it("is saved on top of the version its editor began from, though it is fetched again meanwhile", async () => {
    serve({
      "GET /api/session": session(),
      "GET /api/catalogue": CATALOGUE,
      "GET /api/desk/pages/loft": page(),
      ...POSTS,
    });
    const { queryClient } = await show(<PagePane node="loft" />);
    const title = await screen.findByRole("textbox", { name: /title/i });
    await userEvent.type(title, "!");
    serve({ "GET /api/desk/pages/loft": page({ version: 2, tag: "2", title: "Theirs" }) });
    await act(() => queryClient.refetchQueries({ queryKey: keys.page("loft") }));
    serve({ "PATCH /api/desk/pages/loft": page({ version: 3, tag: "3" }) });
    await userEvent.click(screen.getByRole("button", { name: "Save" }));
    await waitFor(() => expect(sentTo("PATCH", "/api/desk/pages/loft")).toHaveLength(1));
    const [sent] = sentTo("PATCH", "/api/desk/pages/loft");
    expect(sent?.headers.get("If-Match")).toBe('"1"');
    expect(sent?.body).toEqual({ title: "Sail loft!", sitting: true });
  });

  it.each([
    ["published", "content", "Saved, and public now."],
    ["published", "media", "Saved."],
    ["draft", "content", "Saved."],
  ])("is saved by Ctrl S, and says whether that is public: %s %s", async (state, tree, told) => {
    serve({
      "GET /api/session": session(),
      "GET /api/catalogue": CATALOGUE,
      "GET /api/desk/pages/loft": page({ state, tree }),
      "PATCH /api/desk/pages/loft": page({ state, tree, version: 2, tag: "2" }),
      ...POSTS,
    });
    await show(<PagePane node="loft" />);
    const title = await screen.findByRole("textbox", { name: /title/i });
    await userEvent.keyboard("{Control>}s{/Control}");
    expect(sentTo("PATCH", "/api/desk/pages/loft"), "nothing is changed yet").toHaveLength(0);
    await userEvent.type(title, "!");
    await userEvent.keyboard("{Control>}s{/Control}");
    expect(await screen.findByText(told)).toBeTruthy();
    expect(sentTo("PATCH", "/api/desk/pages/loft")).toHaveLength(1);
  });

  it("is in its tree, whichever that is, until one looks at the other", async () => {
    serve({
      "GET /api/session": session({ duties: ["content.open", "media.open"] }),
      "GET /api/desk/pages/loft": page({ tree: "media" }),
      "GET /api/catalogue": CATALOGUE,
    });
    const { queryClient } = await show(<DeskTree chosen="loft" />);
    await act(() => queryClient.setQueryData(keys.page("loft"), page({ tree: "media" })));
    const tab = (name: string) => screen.getByRole("button", { name }).getAttribute("aria-pressed");
    await waitFor(() => expect([tab("Content"), tab("Media")]).toEqual(["false", "true"]));
    await userEvent.click(screen.getByRole("button", { name: "Content" }));
    expect([tab("Content"), tab("Media")]).toEqual(["true", "false"]);
  });

  it.each([
    ["draft", ["edit", "publish"], "Publish"],
    ["draft", ["edit"], "Hand in for review"],
    ["published", ["edit", "retire"], "Save"],
  ])("of a %s page, with %s, one step stands out: %s", async (state, may, stands) => {
    serve({
      "GET /api/session": session(),
      "GET /api/catalogue": CATALOGUE,
      "GET /api/desk/pages/loft": page({ state, may }),
      ...POSTS,
    });
    await show(<PagePane node="loft" />);
    const title = await screen.findByRole("textbox", { name: /title/i });
    const main = () =>
      screen
        .getAllByRole("button")
        .filter(({ className }) => className.split(" ").includes("bg-rod"))
        .map(({ textContent }) => textContent);
    await waitFor(() => expect(main()).toEqual([stands]));
    await userEvent.type(title, "!");
    expect(main(), "what is not saved yet comes first").toEqual(["Save"]);
  });

  it.each([
    [{ content: "loft" }, true],
    [{ media: "pictures" }, false],
    [{}, false],
  ])("New is there where something may be made in that tree: %j", async (make_under, offered) => {
    serve({
      "GET /api/session": session({ duties: ["content.open"] }),
      "GET /api/catalogue": CATALOGUE,
      "GET /api/desk/offers": { work: [], work_in_all: 0, make_under, waiting: true, bin: false },
      "GET /api/desk/children": [],
    });
    await show(<DeskTree chosen="" />);
    await screen.findByRole("link", { name: "Waiting" });
    expect(screen.queryByRole("link", { name: "Bin" })).toBeNull();
    expect(screen.queryByRole("button", { name: "New" }) !== null).toBe(offered);
  });

  it("offers to move and to take out only what may be arranged", async () => {
    serve({ "GET /api/session": session(), "GET /api/catalogue": CATALOGUE });
    const onComponents = vi.fn();
    const shown = page() as never as Parameters<typeof ComponentForm>[0]["page"];
    const form = (more: object) => (
      <ComponentForm
        page={shown}
        at={0}
        component={heading("a", more) as never}
        problem={null}
        onComponents={onComponents}
        onChoose={vi.fn()}
      />
    );
    await show(form({}));
    await userEvent.click(await screen.findByRole("button", { name: "Move down" }));
    expect(onComponents.mock.lastCall?.[0].map(({ id }: { id: string }) => id)).toEqual(["b", "a"]);
    expect(screen.getByRole("button", { name: "Move up" })).toHaveProperty("disabled", true);
    await userEvent.click(screen.getByRole("button", { name: "Take out" }));
    expect(onComponents.mock.lastCall?.[0].map(({ id }: { id: string }) => id)).toEqual(["b"]);
  });

  it("offers neither of what may not, though its words may be changed", async () => {
    serve({ "GET /api/session": session(), "GET /api/catalogue": CATALOGUE });
    await show(
      <ComponentForm
        page={page() as never}
        at={0}
        component={heading("a", { may_arrange: false }) as never}
        problem={null}
        onComponents={vi.fn()}
        onChoose={vi.fn()}
      />,
    );
    expect(await screen.findByRole("heading", { name: "Heading" })).toBeTruthy();
    expect(screen.queryByText("closed")).toBeNull();
    expect(screen.queryByLabelText("Text"), "its words are typed on the page").toBeNull();
    expect(screen.queryByRole("button", { name: "Take out" })).toBeNull();
    expect(screen.queryByRole("button", { name: "Move down" })).toBeNull();
  });

  it("draws a part of an extension by what it says of its properties", async () => {
    const property = (key: string, kind: string, choices: object[] = []) => ({
      key,
      name: key,
      facet: "wording",
      kind,
      choices,
    });
    const lamp = {
      key: "lamp",
      name: "Lamp",
      facets: ["wording"],
      drawn: [],
      properties: [
        property("colour", "choice", [
          { value: "red", name: "Red" },
          { value: 2, name: "Two" },
        ]),
        property("lit", "yes"),
        property("watts", "number"),
      ],
    };
    serve({ "GET /api/session": session(), "GET /api/catalogue": { ...CATALOGUE, components: [lamp] } });
    const onComponents = vi.fn();
    const part = heading("a", { kind: "lamp", props: {} });
    await show(
      <ComponentForm
        page={page({ components: [part] }) as never}
        at={0}
        component={part as never}
        problem={null}
        onComponents={onComponents}
        onChoose={vi.fn()}
      />,
    );
    const props = () => onComponents.mock.lastCall?.[0][0].props;
    await userEvent.selectOptions(await screen.findByLabelText("colour"), "Two");
    expect(props()).toEqual({ colour: 2 });
    await userEvent.click(screen.getByLabelText("lit"));
    expect(props()).toEqual({ lit: true });
    await userEvent.type(screen.getByLabelText("watts"), "7");
    expect(props()).toEqual({ watts: 7 });
  });

  it("keeps a table as it is typed, spaces and all, and takes cells from a spreadsheet", async () => {
    await show(<AskedTable />);
    const rows = () => JSON.parse(screen.getByRole("status").textContent ?? "");
    const box = await screen.findByLabelText<HTMLTextAreaElement>("Rows");
    await userEvent.type(box, "\nPier 3 | at the post ");
    expect(box.value).toBe("Berth | Water\nPier 3 | at the post ");
    await userEvent.type(box, "\n");
    expect(box.value).toBe("Berth | Water\nPier 3 | at the post \n");
    expect(rows()).toEqual([
      ["Berth", "Water"],
      ["Pier 3", "at the post"],
    ]);
    await userEvent.click(screen.getByRole("button", { name: "Undo" }));
    expect(box.value).toBe("Undone");
    await userEvent.clear(box);
    expect(rows()).toEqual([]);
    await userEvent.click(box);
    await userEvent.paste("Tide\tHeight\nHigh\t4.1");
    expect(rows()).toEqual([
      ["Tide", "Height"],
      ["High", "4.1"],
    ]);
  });

  it("draws a part by the shapes it says, and says of an empty one that it is", async () => {
    const property = (key: string) => ({ key, name: key, facet: "wording", kind: "text", choices: [] });
    const fixed = { label: "", heads: [], numbered: false };
    const board = {
      key: "board",
      name: "Board",
      facets: ["wording"],
      properties: [property("race"), property("places"), property("protests")],
      drawn: [
        {
          ...fixed,
          shape: "table",
          main: "places",
          filled: { rows: "places", caption: "race" },
          numbered: true,
        },
        { ...fixed, shape: "line", main: "protests", filled: { text: "protests" }, label: "Being heard:" },
      ],
    };
    const drawn = (props: object) => (
      <DrawnPart component={heading("a", { kind: "board", props }) as never} known={board as never} />
    );
    const { container } = await show(drawn({ race: "Pier dash", places: [["Fulmar", "41:07"]] }));
    expect(container.textContent).toBe("Pier dash1Fulmar41:07");
    const empty = await show(drawn({ race: "Pier dash", places: [[""]] }));
    expect(empty.container.textContent).toBe("Board, with nothing in it yet");
    const heard = await show(drawn({ protests: "Fulmar" }));
    expect(heard.container.textContent).toBe("Being heard: Fulmar");
  });

  it("draws a choice that is not said as its first", async () => {
    const tone = { key: "tone", name: "Tone", facet: "style", kind: "choice" };
    const words = { key: "words", name: "Words", facet: "wording", kind: "text", choices: [] };
    const sign = (first: string, second: string) => ({
      key: "sign",
      name: "Sign",
      facets: ["wording", "style"],
      properties: [words, { ...tone, choices: [first, second].map((value) => ({ value, name: value })) }],
      drawn: [
        {
          shape: "notice",
          main: "words",
          filled: { text: "words", tone: "tone" },
          label: "",
          heads: [],
          numbered: false,
        },
      ],
    });
    const part = heading("a", { kind: "sign", props: { words: "Shut" } });
    const look = async (first: string, second: string) => {
      const { container } = await show(
        <DrawnPart component={part as never} known={sign(first, second) as never} />,
      );
      return container.querySelector("span")?.className;
    };
    expect(await look("strong", "plain")).toContain("font-semibold");
    expect(await look("plain", "strong")).not.toContain("font-semibold");
  });
});
