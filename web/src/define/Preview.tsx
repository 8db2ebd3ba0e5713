// Whom some answers would touch: counted by the server, before they are staged.
import { count } from "../app/time";
import type { Saying } from "./patterns";
import { usePreview } from "./useBoard";

export function Preview({ role, saying }: { role: string; saying: Saying }) {
  const { data, error } = usePreview(role, saying);
  if (error) return <span>Whom it touches could not be counted: {error.message}</span>;
  if (!data) return <span>Counting whom it touches…</span>;
  if (data.gain + data.lose === 0) return <span>Nothing turns for anybody.</span>;
  const parts = [
    data.gain > 0 && `${count(data.gain, "account")} gain ${count(data.gained, "answer")}`,
    data.lose > 0 && `${count(data.lose, "account")} lose ${count(data.lost, "answer")}`,
  ];
  return <span className="figures">{parts.filter(Boolean).join(", ")}.</span>;
}
