// The page of a report: contents, figures, a table for each section, and a sentence for each answer.
import type { Shapes } from "../../api/client";
import { RoleCloth } from "../../cloth/RoleCloth";
import { useRoleMap } from "../../shared/useRoles";
import type { Told } from "./useReport";

/** So many sentences of a row are printed. */
const FEW = 8;

type Section = Shapes["ReportSectionShape"];

export function ReportPage({ head, told }: { head: string; told: Told }) {
  return (
    <article className="report mx-auto max-w-[720px] bg-white px-[52px] py-[46px] text-[#111] shadow-lg">
      <header>
        <h1 className="text-[23px]">{told.title}</h1>
        <p className="mt-1 text-sm text-[#444]">{head}</p>
        {told.facts.length > 0 && (
          <ul className="mt-4 flex flex-wrap gap-x-8 gap-y-2 rounded border border-[#888] px-4 py-3 text-sm">
            {told.facts.map(({ count, words }) => (
              <li key={words}>
                <strong>{count}</strong> {words}
              </li>
            ))}
          </ul>
        )}
        <nav aria-label="Contents" className="mt-5 text-sm">
          <ol className="list-decimal pl-5">
            {told.sections.map(({ title }, at) => (
              <li key={title}>
                <a href={`#section-${at + 1}`} className="underline">
                  {title}
                </a>
              </li>
            ))}
          </ol>
        </nav>
      </header>
      {told.sections.map((section, at) => (
        <SectionOf key={section.title} section={section} number={at + 1} />
      ))}
      {told.left_out.length > 0 && (
        <section className="mt-7 text-sm">
          <h2>What it leaves out</h2>
          <ul className="mt-1 list-disc pl-5">
            {told.left_out.map((line) => (
              <li key={line}>{line}</li>
            ))}
          </ul>
        </section>
      )}
    </article>
  );
}

function SectionOf({ section, number }: { section: Section; number: number }) {
  return (
    <section className="mt-7" id={`section-${number}`}>
      <h2>
        {number} {section.title}
      </h2>
      {section.words && <p className="mt-1 text-sm">{section.words}</p>}
      {section.columns.length > 0 && (
        <table className="mt-1 w-full text-[12.5px]">
          <thead>
            <tr className="border-b border-[#888] text-left text-xs">
              {section.columns.map((column) => (
                <th key={column} className="py-1 pr-3 font-normal text-[#444]">
                  {column}
                </th>
              ))}
            </tr>
          </thead>
          {section.rows.map((row, at) => (
            // biome-ignore lint/suspicious/noArrayIndexKey: rows may be alike, and a report never changes.
            <RowOf key={at} row={row} columns={section.columns.length} />
          ))}
        </table>
      )}
    </section>
  );
}

function RowOf({ row, columns }: { row: Shapes["ReportRowShape"]; columns: number }) {
  const roles = useRoleMap();
  const cloths = row.cloths.flatMap((key) => roles.get(key) ?? []);
  const said = row.sentences.filter(Boolean);
  return (
    <tbody className="break-inside-avoid border-b border-[#ddd]">
      <tr>
        {row.cells.map((cell, at) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: cells may be alike, and a report never changes.
          <td key={at} className="py-1.5 pr-3 align-top">
            {at === 0 &&
              cloths.map((role) => (
                <span key={role.key} className="mr-1 inline-block align-[-2px]">
                  <RoleCloth cloth={role.cloth} size={13} />
                </span>
              ))}
            {cell}
          </td>
        ))}
      </tr>
      {said.length > 0 && (
        <tr>
          <td colSpan={columns} className="pb-1.5 text-[11.5px] text-[#444]">
            {said.slice(0, FEW).map((sentence) => (
              <span key={sentence} className="block">
                {sentence}
              </span>
            ))}
            {said.length > FEW && (
              <span className="block">And {said.length - FEW} more, in the spreadsheet.</span>
            )}
          </td>
        </tr>
      )}
    </tbody>
  );
}
