// Kinds of content: reading them, making and changing them and their fields.
import { useMutation, useQuery } from "@tanstack/react-query";
import { answer, api, type Shapes } from "../api/client";
import { keys } from "../shared/keys";
import { accessChanged, queryClient } from "../shared/query";

export type Kind = Shapes["KindShape"];
export type KindField = Shapes["KindFieldShape"];
export type FieldSort = KindField["kind"];

/** What a field can hold, as people call it. */
export const SORTS: Record<FieldSort, string> = {
  text: "a line of text",
  long: "longer text",
  rich: "text with markup",
  number: "a number",
  yes: "yes or no",
  date: "a date",
  moment: "a date and time",
  choice: "one of several",
  choices: "some of several",
  reference: "a page",
  picture: "a picture",
  document: "a document",
  link: "a link",
};

export function useKinds() {
  return useQuery({ queryKey: keys.kinds, queryFn: () => answer(api.GET("/api/kinds")) });
}

async function kindsChanged() {
  const told = [keys.kinds, keys.catalogue, keys.fields, ["page"], ["new-kinds"]];
  await Promise.all([
    ...told.map((queryKey) => queryClient.invalidateQueries({ queryKey })),
    accessChanged(),
  ]);
}

const tag = ({ version }: Kind) => ({ "If-Match": `"${version}"` });

export function useMakeKind() {
  return useMutation({
    mutationFn: (body: Shapes["KindInputRequest"]) => answer(api.POST("/api/kinds", { body })),
    onSuccess: kindsChanged,
  });
}

export function useChangeKind(kind: Kind) {
  return useMutation({
    mutationFn: (body: Shapes["PatchedKindChangeInputRequest"]) =>
      answer(
        api.PATCH("/api/kinds/{kind}", { params: { path: { kind: kind.key }, header: tag(kind) }, body }),
      ),
    onSettled: kindsChanged,
  });
}

export function useAddField(kind: Kind) {
  return useMutation({
    mutationFn: (body: Shapes["FieldInputRequest"]) =>
      answer(
        api.POST("/api/kinds/{kind}/fields", {
          params: { path: { kind: kind.key }, header: tag(kind) },
          body,
        }),
      ),
    onSuccess: kindsChanged,
  });
}

export function useChangeField(kind: Kind) {
  return useMutation({
    mutationFn: ({ field, ...body }: Shapes["PatchedFieldChangeInputRequest"] & { field: string }) =>
      answer(
        api.PATCH("/api/kinds/{kind}/fields/{field}", {
          params: { path: { kind: kind.key, field }, header: tag(kind) },
          body,
        }),
      ),
    onSuccess: kindsChanged,
  });
}

export function useOrderFields(kind: Kind) {
  return useMutation({
    mutationFn: (order: string[]) =>
      answer(
        api.PUT("/api/kinds/{kind}/fields", {
          params: { path: { kind: kind.key }, header: tag(kind) },
          body: { order },
        }),
      ),
    onSettled: kindsChanged,
  });
}

export function usePurgeField(kind: Kind) {
  return useMutation({
    mutationFn: (field: string) =>
      answer(
        api.DELETE("/api/kinds/{kind}/fields/{field}", {
          params: { path: { kind: kind.key, field }, header: tag(kind) },
        }),
      ),
    onSuccess: kindsChanged,
  });
}
