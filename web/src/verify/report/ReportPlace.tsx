// A report for a client or an auditor: what it is about on the left, the page as it is printed on the right.
import { ErrorNotice, Loading } from "../../shared/ui";
import { useParam } from "../../shared/useParam";
import { ReportForm } from "./ReportForm";
import { ReportPage } from "./ReportPage";
import { isUnderWay, useReport } from "./useReport";

export function ReportPlace() {
  const [id, setId] = useParam("report");
  const report = useReport(id);
  return (
    <>
      <ReportForm report={report.data} onAsked={setId} />
      <section
        aria-label="The report"
        className="report-room min-w-0 flex-1 overflow-y-auto bg-[#dcd7cc] px-6 py-6"
      >
        <ErrorNotice error={report.error} again={report.refetch} />
        {id === "" && (
          <p className="mx-auto mt-24 max-w-[420px] text-center text-ink2">
            Choose what the report is about. It is made while you wait, and kept for a week for you alone.
          </p>
        )}
        {id !== "" && !report.error && !report.data && <Loading what="the report" />}
        {isUnderWay(report.data) && (
          <p role="status" className="mx-auto mt-24 max-w-[420px] text-center text-ink2">
            {report.data?.total
              ? `Being made: ${report.data.done} of ${report.data.total} parts.`
              : "Waiting for the worker."}
          </p>
        )}
        {report.data?.state === "closed" && (
          <p role="alert" className="mx-auto mt-24 max-w-[420px] text-center text-bar">
            It could not be made: what it was about is gone, or nothing is known of that day.
          </p>
        )}
        {report.data?.told && <ReportPage head={report.data.head} told={report.data.told} />}
      </section>
    </>
  );
}
