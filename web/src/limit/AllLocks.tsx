// Every lock on pages one sees: what is closed, by whom, since when and why, and opening it.
import { useMutation, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";
import { answer, api, everyPage } from "../api/client";
import { keys } from "../shared/keys";
import { accessChanged } from "../shared/query";
import { day } from "../shared/time";
import { Button, Empty, ErrorNotice, INPUT, Loading } from "../shared/ui";

function useLocks() {
  return useQuery({
    queryKey: keys.locks,
    queryFn: () => everyPage((offset) => api.GET("/api/locks", { params: { query: { offset } } })),
  });
}

export function AllLocks() {
  const locks = useLocks();
  const [words, setWords] = useState("");
  const open = useMutation({
    mutationFn: (lock: string) => answer(api.DELETE("/api/locks/{lock}", { params: { path: { lock } } })),
    onSettled: () => accessChanged(),
  });
  if (locks.error) return <ErrorNotice error={locks.error} again={locks.refetch} />;
  if (!locks.data) return <Loading what="the locks" />;
  if (locks.data.length === 0)
    return (
      <Empty title="Nothing is locked">A page, a field or a part is locked on the desk, under Access.</Empty>
    );
  const shown = locks.data.filter(({ what, by, why }) =>
    `${what} ${by ?? ""} ${why}`.toLowerCase().includes(words.toLowerCase()),
  );
  return (
    <div className="min-h-0 flex-1 overflow-y-auto pt-2 pb-6">
      <input
        aria-label="What, why, or who locked it"
        placeholder="What, why, or who locked it"
        value={words}
        onChange={(event) => setWords(event.target.value)}
        className={`${INPUT} mb-2 w-[260px]!`}
      />
      <ErrorNotice error={open.error} />
      <table className="w-full text-read">
        <thead>
          <tr className="border-b border-line text-left text-xs text-ink2">
            {["What", "Why", "Locked", ""].map((name) => (
              <th key={name} className="py-1.5 font-normal">
                {name || <span className="sr-only">Open</span>}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {shown.map((lock) => (
            <tr key={lock.id} className="border-b border-linen2">
              <td className="py-1.5 pr-3">
                <Link className="font-semibold underline decoration-line2" to={`/desk/${lock.node}`}>
                  {lock.what}
                </Link>
              </td>
              <td className="py-1.5 pr-3">{lock.why}</td>
              <td className="py-1.5 pr-3 text-ink2">{[lock.by, day(lock.at)].filter(Boolean).join(", ")}</td>
              <td className="py-1 text-right">
                {lock.may_open && (
                  <Button
                    look="quiet"
                    aria-label={`Open the lock: ${lock.what}`}
                    disabled={open.isPending}
                    onClick={() => open.mutate(lock.id)}
                  >
                    Open
                  </Button>
                )}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      {shown.length === 0 && <Empty title="None of them">Look for something else.</Empty>}
    </div>
  );
}
