// What a report is about, as of when, and for whom; printed, or taken away.

import { type FormEvent, useState } from "react";
import { ProblemError } from "../../api/client";
import { DateInput } from "../../shared/dates/DateInput";
import { WhomPicker } from "../../shared/pickers";
import { BranchPicker } from "../../shared/tree/BranchPicker";
import { Button, ErrorNotice, INPUT, Labelled } from "../../shared/ui";
import { isUnderWay, type Report, useAskForReport } from "./useReport";

const ABOUT = [
  ["branch", "a branch"],
  ["whom", "a role, a person or a group"],
  ["everything", "everything"],
] as const;

type FormProps = { report: Report | undefined; onAsked: (report: string) => void };

export function ReportForm({ report, onAsked }: FormProps) {
  const [about, setAbout] = useState<(typeof ABOUT)[number][0]>("branch");
  const [branch, setBranch] = useState<string[]>([]);
  const [whom, setWhom] = useState("");
  const [day, setDay] = useState("");
  const [reader, setReader] = useState("");
  const ask = useAskForReport();
  const problem = ask.error instanceof ProblemError ? ask.error : null;
  const [kind, key] = whom.split(" ") as ["role" | "group" | "account", string | undefined];
  const chosen = { branch: branch[0], whom: key, everything: "" }[about];

  function make(event: FormEvent) {
    event.preventDefault();
    if (chosen === undefined) return;
    const of = about === "whom" ? kind : about;
    const at = day ? new Date(`${day}T12:00:00`).toISOString() : null;
    ask.mutate({ about: of, id: chosen, at, reader }, { onSuccess: ({ id }) => onAsked(id) });
  }

  return (
    <form
      onSubmit={make}
      className="report-form w-[300px] shrink-0 overflow-y-auto bg-linen2 px-[18px] pt-[30px] pb-8"
    >
      <h1 className="text-title">Report</h1>
      <p className="mt-1 text-sm text-ink2">
        Who can do what, for a client or an auditor. It tells no more than you may know, and says what it
        leaves out.
      </p>
      <fieldset className="mt-4">
        <legend className="mb-1 font-semibold">About</legend>
        {ABOUT.map(([value, words]) => (
          <label key={value} className="flex items-center gap-2 py-1 text-sm">
            <input
              type="radio"
              name="about"
              className="size-4 accent-rod"
              checked={about === value}
              onChange={() => setAbout(value)}
            />
            {words}
          </label>
        ))}
      </fieldset>
      <div className="mt-2">
        {about === "branch" && (
          <Labelled label="Branch" error={problem?.at("/id")}>
            {(id) => <BranchPicker id={id} chosen={branch} onChange={(ids) => setBranch(ids.slice(-1))} />}
          </Labelled>
        )}
        {about === "whom" && (
          <Labelled label="Whom" error={problem?.at("/id")}>
            {(id) => <WhomPicker id={id} value={whom} onPick={setWhom} />}
          </Labelled>
        )}
      </div>
      <Labelled
        label="As of"
        hint="Empty is now. Of a day that is past the policy as it was."
        error={problem?.at("/at")}
      >
        {(id, by) => <DateInput id={id} describedBy={by} value={day} onChange={setDay} />}
      </Labelled>
      <Labelled label="For" error={problem?.at("/reader")}>
        {(id) => (
          <input
            id={id}
            value={reader}
            maxLength={150}
            onChange={(event) => setReader(event.target.value)}
            className={INPUT}
          />
        )}
      </Labelled>
      <Button
        type="submit"
        look="main"
        disabled={chosen === undefined || ask.isPending || isUnderWay(report)}
      >
        Make the report
      </Button>
      {!problem?.problem.errors && <ErrorNotice error={ask.error} />}
      {report?.told && (
        <p className="mt-5 flex flex-wrap gap-2">
          <Button onClick={() => window.print()}>Print</Button>
          <Away href={`/api/reports/${report.id}/spreadsheet`} name="report.xlsx">
            Spreadsheet
          </Away>
          <Away href={`/api/reports/${report.id}/table`} name="report.csv">
            Table
          </Away>
          <Away href={`/api/reports/${report.id}`} name="report.json">
            Data
          </Away>
        </p>
      )}
    </form>
  );
}

function Away({ href, name, children }: { href: string; name: string; children: string }) {
  return (
    <a
      href={href}
      download={name}
      className="rounded border border-line2 bg-paper px-[11px] py-[5px] text-sm font-semibold whitespace-nowrap hover:bg-linen2"
    >
      {children}
    </a>
  );
}
