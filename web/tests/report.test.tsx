// @vitest-environment jsdom
// A report as it is printed: contents, tables, sentences, what it leaves out.
import { screen } from "@testing-library/react";
import { expect, it } from "vitest";
import { CATALOGUE, serve, session, show } from "./serving";

const { ReportPlace } = await import("../src/verify/report/ReportPlace");

const told = {
  title: "Who can do what in Pier 3",
  facts: [{ count: 11, words: "pages" }],
  left_out: ["Pages that its maker does not see."],
  sections: [
    {
      title: "Who can edit",
      words: "",
      columns: ["Who", "How much", "Because"],
      rows: [
        {
          cells: ["10 people", "all 11", "Everyone, for everybody"],
          sentences: Array.from({ length: 10 }, (_, at) => `Person ${at} may edit anything in Pier 3.`),
          cloths: [],
        },
      ],
    },
    { title: "What nobody can", words: "remove: keyholders alone.", columns: [], rows: [] },
  ],
};

it("has its contents, a table for each section and a sentence for each answer", async () => {
  const report = { id: "r1", state: "made", head: "As of now, made by Odile", done: 0, total: 0, told };
  serve({
    "GET /api/session": session({ duties: ["roster.see"] }),
    "GET /api/catalogue": CATALOGUE,
    "GET /api/roles": [],
    "GET /api/reports/r1": report,
  });
  await show(<ReportPlace />, "/verify/report?report=r1");
  expect(await screen.findByRole("heading", { name: "Who can do what in Pier 3" })).toBeTruthy();
  expect(screen.getByRole("link", { name: "Who can edit" }).getAttribute("href")).toBe("#section-1");
  expect(screen.getByText("Person 7 may edit anything in Pier 3.")).toBeTruthy();
  expect(screen.getByText("And 2 more, in the spreadsheet.")).toBeTruthy();
  expect(screen.getByText("remove: keyholders alone.")).toBeTruthy();
  expect(screen.getByText("Pages that its maker does not see.")).toBeTruthy();
  expect(screen.getByRole("link", { name: "Spreadsheet" }).getAttribute("href")).toBe(
    "/api/reports/r1/spreadsheet",
  );
});
