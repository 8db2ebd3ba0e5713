// What everything given adds up to beneath whole pages: duties, fields that are not open to all, and components.
import type { ReactNode } from "react";
import { RoleCloth } from "../cloth/RoleCloth";
import { useRoleMap } from "../shared/useRoles";
import { WhyPopover, type WhyQuestion } from "../shared/Why";
import { type Sum, SumMarks } from "./SumMarks";

const LIST = "mt-1 grid grid-cols-3 gap-x-6 max-[1180px]:grid-cols-2";
const LINE = "flex min-h-[30px] items-center gap-1.5 border-b border-linen2 text-read";

/** The duties, each with the cloth of what gives it; why is one click away. */
export function SumDuties({ duties, account }: { duties: Sum["duties"]; account: string }) {
  if (duties.length === 0) return null;
  return (
    <>
      <h3 className="mt-4 text-note font-semibold text-ink2">Duties</h3>
      <ul aria-label="Duties" className={LIST}>
        {duties.map(({ key, name, area, marks }) => (
          <li key={key} className={LINE}>
            <SumMarks marks={marks} plain />
            <WhyPopover question={{ action: key, account }}>
              <button type="button" className="truncate text-left hover:underline" title={area}>
                {name}
              </button>
            </WhyPopover>
          </li>
        ))}
      </ul>
    </>
  );
}

type Example = Sum["kinds"][number]["example"];
type AskedProps = { question: WhyQuestion; example: Example; label: string; children: ReactNode };

/** Marks of which why is one click away, asked of an example; only the marks where there is none to ask of. */
function Asked({ question, example, label, children }: AskedProps) {
  if (!example) return children;
  const of = question.type === PROFILE ? { profile: example.id } : { node: example.id };
  return (
    <WhyPopover question={{ ...question, ...of }} about={`Asked of ${example.title}, for example.`}>
      <button
        type="button"
        aria-label={`Why? ${label}, for example ${example.title}`}
        className="flex min-h-[26px] min-w-0 items-center gap-1.5 rounded px-0.5 text-left hover:bg-linen2"
      >
        {children}
      </button>
    </WhyPopover>
  );
}

const PROFILE = "account";

/** The fields that are narrowed, each with what lets the account see, fill and change it. */
export function SumFields({ fields, account }: { fields: Sum["fields_narrowed"]; account: string }) {
  if (fields.length === 0) return null;
  return (
    <>
      <h3 className="mt-4 text-note font-semibold text-ink2">Fields that are not open to all</h3>
      <table className="w-full text-read">
        <thead className="sr-only">
          <tr>
            {["Field", "See", "Fill in", "Change"].map((name) => (
              <th key={name} scope="col">
                {name}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {fields.map((field) => (
            <tr key={`${field.type} ${field.name}`} className="border-b border-linen2">
              <th scope="row" className="h-[30px] pr-3 text-left font-normal">
                <span className="text-ink2">{field.type_name}:</span> {field.name}
              </th>
              {field.author ? (
                <td colSpan={3} className="text-ink2">
                  only what they wrote themselves, unless a duty shows all such fields
                </td>
              ) : (
                (["see", "fill", "change"] as const).map((verb) => (
                  <td key={verb} className="w-[120px]">
                    <span className="flex items-center gap-1">
                      <span className="w-[52px] text-xs text-ink2">{VERBS[verb]}</span>
                      <Asked
                        question={{ action: `${verb}-field`, account, type: field.type, field: field.key }}
                        example={field.example}
                        label={`${VERBS[verb]} ${field.name}`}
                      >
                        <SumMarks marks={field[verb]} />
                      </Asked>
                    </span>
                  </td>
                ))
              )}
            </tr>
          ))}
        </tbody>
      </table>
    </>
  );
}

const VERBS = { see: "sees", fill: "fills in", change: "changes" };

type ComponentsProps = { components: Sum["components"]; account: string; example: Example };

/** The components they may put into pages they edit, and what of one they may not change. */
export function SumComponents({ components, account, example }: ComponentsProps) {
  if (components.length === 0) return null;
  return (
    <>
      <h3 className="mt-4 text-note font-semibold text-ink2">Parts of pages they may put in</h3>
      <ul aria-label="Components" className={LIST}>
        {components.map(({ key, name, marks, closed }) => (
          <li key={key} className={LINE}>
            <Asked
              question={{ action: "insert-component", account, component: key }}
              example={example}
              label={`put in ${name}`}
            >
              <SumMarks marks={marks} plain />
              <span>{name}</span>
            </Asked>
            {closed.length > 0 && (
              <span className="truncate text-xs text-ink2">not its {closed.join(", ")}</span>
            )}
          </li>
        ))}
      </ul>
    </>
  );
}

/** What bars or narrows all this, a sentence each. */
export function Narrowed({ notes }: { notes: Sum["narrowed"] }) {
  const roles = useRoleMap();
  if (notes.length === 0) return null;
  return (
    <ul aria-label="Barred or narrowed" className="mt-3 space-y-1">
      {notes.map(({ role, text }) => (
        <li key={text} className="flex items-start gap-2 text-read">
          <span className="flex h-[22px] w-[18px] shrink-0 items-center">
            {role && <RoleCloth cloth={roles.get(role)?.cloth} size={16} />}
          </span>
          {text}
        </li>
      ))}
    </ul>
  );
}
