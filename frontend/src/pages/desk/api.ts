import { keepPreviousData, queryOptions, useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { answer, api, type Schemas } from '../../api/client';

export type Card = Schemas['CardShown'];
export type FieldOf = Schemas['FieldShown'];
export type Answer = Schemas['AnswerShown'];
export type Kept = Schemas['Kept'];
export type Given = Readonly<Record<string, string>>;
export type Sweep = Schemas['SweepAsked'];

/** Every card, and the last calls. */
export function useDesk() {
  return useQuery({ queryKey: ['desk'], queryFn: ({ signal }) => answer(api.GET('/api/desk', { signal })), staleTime: Infinity });
}

/** A call of a card: asked once for the same fields and the same place of the handle. */
export const asking = (card: string, given: Given, sweep: Sweep | null) =>
  queryOptions({
    queryKey: ['desk', card, given, sweep],
    queryFn: ({ signal }) => answer(api.POST('/api/desk/{card}', { params: { path: { card } }, body: { given, sweep, keep: false, who: '' }, signal })),
    retry: false,
    staleTime: Infinity,
    gcTime: 60_000,
  });

/** What a card says to what is typed; what stood there stays until the new answer has come. */
export const useAnswer = (card: string, given: Given, sweep: Sweep | null) => useQuery({ ...asking(card, given, sweep), placeholderData: keepPreviousData });

/** Puts a call among the last ones. */
export function useKeep(card: string, who: string) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (given: Given) => answer(api.POST('/api/desk/{card}', { params: { path: { card } }, body: { given, keep: true, who } })),
    onSuccess: (said) => client.setQueryData(['desk-kept', card], said.kept),
  });
}

/** The last calls of a card. */
export function useKept(card: string, known: readonly Kept[] | undefined) {
  return useQuery({ queryKey: ['desk-kept', card], queryFn: () => known ?? [], enabled: known !== undefined, staleTime: Infinity, initialData: known });
}
