// The expectations as a file: read with its tag, kept on top of the version that was read.
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { answer, answerWithTag, api } from "../../api/client";
import { keys } from "../../shared/keys";
import { accessChanged } from "../../shared/query";

export function useFile() {
  return useQuery({
    queryKey: keys.expectationsFile,
    queryFn: () => answerWithTag(api.GET("/api/expectations/sentences", { parseAs: "text" })),
    staleTime: Number.POSITIVE_INFINITY,
    gcTime: 0,
  });
}

export function useKeep() {
  const client = useQueryClient();
  return useMutation({
    mutationFn: ({ text, tag }: { text: string; tag: string }) =>
      answerWithTag(
        api.PUT("/api/expectations/sentences", {
          params: { header: { "If-Match": tag } },
          headers: { "Content-Type": "text/plain" },
          body: text,
          bodySerializer: (body: unknown) => String(body),
          parseAs: "text",
        }),
      ),
    onSuccess: (kept) => {
      client.setQueryData(keys.expectationsFile, kept);
      return accessChanged();
    },
  });
}

/** The file with every name's key, to be asked of a policy document. */
export async function takeAway(keysToo: boolean): Promise<void> {
  const text = await answer(
    api.GET("/api/expectations/sentences", {
      params: { query: keysToo ? { keys: true } : {} },
      parseAs: "text",
    }),
  );
  const link = document.createElement("a");
  link.href = URL.createObjectURL(new Blob([text], { type: "text/plain" }));
  link.download = "expectations.txt";
  link.click();
  URL.revokeObjectURL(link.href);
}
