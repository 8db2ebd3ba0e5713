// Choosing a password: why it would be refused is told while one types.
import { useQuery } from "@tanstack/react-query";
import { answer, api } from "../api/client";
import { INPUT, Labelled } from "./ui";
import { useSettled } from "./useSettled";

type NewPasswordProps = {
  value: string;
  onChange: (password: string) => void;
  /** Of the link that one followed, if one did. */
  secret?: string;
  error?: string;
};

export function NewPassword({ value, onChange, secret, error }: NewPasswordProps) {
  const settled = useSettled(value);
  const check = useQuery({
    queryKey: ["password", settled, secret],
    queryFn: () => answer(api.POST("/api/welcome/password", { body: { password: settled, secret } })),
    enabled: settled !== "",
    gcTime: 0,
    retry: false,
  });
  const reasons = settled === value ? (check.data?.reasons ?? []) : [];
  const good = settled === value && value !== "" && check.data?.reasons.length === 0;
  return (
    <Labelled
      label="New password"
      error={value === "" ? error : reasons.join(" ") || undefined}
      hint={good ? "That will do." : "Several words that do not belong together are easy to keep in mind."}
    >
      {(id, by) => (
        <input
          id={id}
          aria-describedby={by}
          type="password"
          autoComplete="new-password"
          value={value}
          onChange={(event) => onChange(event.target.value)}
          className={INPUT}
        />
      )}
    </Labelled>
  );
}
