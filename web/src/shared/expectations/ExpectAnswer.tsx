// "Expect this": an answer, wherever it is told, kept as what should stay so.
import { Button, ErrorNotice } from "../ui";
import { staysSo, useExpectThis } from "./useExpectations";

type Props = {
  /** The question as the rules write it: of whom, and what. */
  asked: Record<string, unknown>;
  allow: boolean;
};

export function ExpectAnswer({ asked, allow }: Props) {
  const record = useExpectThis();
  return (
    <span className="mt-2 block">
      <Button
        disabled={record.isPending || record.isSuccess}
        onClick={() => record.mutate(staysSo(asked, allow))}
      >
        Expect it to stay so
      </Button>
      <span role="status" className="ml-2 text-xs text-ink2">
        {record.isSuccess ? "Kept among the expectations." : ""}
      </span>
      <ErrorNotice error={record.error} />
    </span>
  );
}
