// Why one answer is what it is, the smallest changes that would turn a no, and who can.
import { useSearchParams } from "react-router";
import { useDuty, useSession } from "../shared/session";
import { Turns } from "../shared/turning/Turns";
import { Empty, ErrorNotice, Loading } from "../shared/ui";
import { WhoCan } from "../shared/WhoCan";
import { useWhy, type WhyQuestion, WhySteps } from "../shared/Why";

const PARTS = [
  "action",
  "account",
  "role",
  "node",
  "profile",
  "type",
  "field",
  "component",
  "facet",
] as const;

export function WhyPlace() {
  const [params] = useSearchParams();
  const session = useSession().data;
  const limits = useDuty("limits.set");
  const asked = [...PARTS, "component_id" as const].filter((key) => params.get(key));
  const question = Object.fromEntries(asked.map((key) => [key, params.get(key)])) as WhyQuestion;
  if (!question.action) return <Empty heading title="Nothing is asked" />;
  const { account, role, profile, ...where } = question;
  const shows = limits && !session?.standing_in && !profile;
  return (
    <>
      <Answer question={question} />
      {shows && (
        <aside
          aria-label="Who can"
          className="w-[330px] shrink-0 overflow-y-auto border-l border-line bg-paper px-[18px] pt-[30px] pb-8 max-[1180px]:w-[280px]"
        >
          <WhoCan question={where} words={where.node ? "do it here" : "do it"} />
        </aside>
      )}
    </>
  );
}

function Answer({ question }: { question: WhyQuestion }) {
  const why = useWhy(question);
  return (
    <section aria-label="Why" className="min-w-0 flex-1 overflow-y-auto px-[26px] pt-[30px] pb-8">
      <p className="text-xs text-ink2">Why, and what would change it</p>
      {why.error && <ErrorNotice error={why.error} again={why.refetch} />}
      {why.isPending && <Loading what="the reason" />}
      {why.data && (
        <>
          <h1 className="mb-3">
            {why.data.question}{" "}
            <span className={why.data.allow ? "" : "text-bar"}>{why.data.allow ? "Yes." : "No."}</span>
          </h1>
          <WhySteps why={why.data} />
          <Turns question={question} />
        </>
      )}
    </section>
  );
}
