// "Expect it to stay so": who can do something, kept as an expectation that is asked before every change.
import { useMutation } from "@tanstack/react-query";
import { answer, api, type Shapes } from "../api/client";
import { accessChanged } from "./query";
import { useDuty } from "./session";
import { count } from "./time";
import { Button, ErrorNotice } from "./ui";
import type { WhoQuestion } from "./WhoCan";

type Row = Shapes["WhoCanRowShape"];
type Expected = Shapes["ExpectationInputRequest"];

const MOST = 10;

type ExpectProps = { question: WhoQuestion; can: Row[]; complete: boolean };

/** `complete` says that everybody who can is among the rows. */
export function ExpectIt({ question, can, complete }: ExpectProps) {
  const may = useDuty("expectations.keep");
  const expected = complete ? expectedOf(question, can) : [];
  const record = useMutation({
    mutationFn: async () => {
      for (const body of expected) await answer(api.POST("/api/expectations", { body }));
    },
    onSettled: () => accessChanged(),
  });
  if (!may || expected.length === 0) return null;
  return (
    <span>
      <Button disabled={record.isPending || record.isSuccess} onClick={() => record.mutate()}>
        Expect it to stay so
      </Button>
      <span role="status" className="block text-xs text-ink2">
        {record.isSuccess ? `${count(expected.length, "expectation")} recorded.` : ""}
      </span>
      <ErrorNotice error={record.error} />
    </span>
  );
}

/** That nobody but the holders of a role may, where it is one role's; else that each of a few may. */
export function expectedOf(question: WhoQuestion, can: Row[]): Expected[] {
  const where = Object.fromEntries(Object.entries(question).filter(([, value]) => value)) as WhoQuestion;
  const [first, ...rest] = can.map(({ through }) => through.flatMap(({ role }) => (role ? [role.key] : [])));
  const role = first?.find((key) => rest.every((others) => others.includes(key)));
  const given = can.every(({ through }) => through.every(({ where }) => where !== "for everybody"));
  if (role && given) return [{ ...where, except_holders_of: role, expect: "deny", note: "" }];
  if (question.branch || can.length > MOST) return [];
  return can.map(({ account }) => ({ ...where, account, expect: "allow", note: "" }));
}
