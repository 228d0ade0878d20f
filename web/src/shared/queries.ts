import { useMutation, useQuery, useQueries, useQueryClient } from "@tanstack/react-query";
import { api, ask } from "../api/client";
import { useSay } from "./Announcer";
import { changes, keys } from "./queryKeys";

export const useMe = () =>
  useQuery({
    queryKey: keys.me,
    queryFn: () => ask(api.GET("/api/me")),
    retry: false,
    staleTime: 60_000,
  });
export const useHorizon = () =>
  useQuery({
    queryKey: keys.horizon,
    queryFn: () => ask(api.GET("/api/horizon")),
    refetchInterval: 60_000,
  });
/** One assignment, seen from a part; 0: from the one that comes next. */
export const useDesk = (id: number, part: number) =>
  useQuery({
    queryKey: keys.desk(id, part),
    queryFn: () =>
      ask(api.GET("/api/assignments/{id}", { params: { path: { id }, query: { part } } })),
    refetchInterval: 60_000,
  });
export const useReading = (id: number) =>
  useQuery({
    queryKey: keys.reading(id),
    queryFn: () => ask(api.GET("/api/submissions/{id}/report", { params: { path: { id } } })),
    retry: false,
  });
/** The student's own check of a part's work; null where there was none. */
export const useOwnCheck = (id: number, part: number) =>
  useQuery({
    queryKey: keys.ownCheck(id, part),
    queryFn: async () => {
      const path = "/api/assignments/{id}/check";
      return (await ask(api.GET(path, { params: { path: { id }, query: { part } } }))) ?? null;
    },
    retry: false,
  });
export const useCheckOwn = (id: number, part: number) =>
  useAct(() =>
    ask(api.POST("/api/assignments/{id}/check", { params: { path: { id }, query: { part } } })),
  );
export const useSources = (id: number) =>
  useQuery({
    queryKey: keys.sources(id),
    queryFn: () => ask(api.GET("/api/assignments/{id}/sources", { params: { path: { id } } })),
  });
export const useLedger = () =>
  useQuery({ queryKey: keys.ledger, queryFn: () => ask(api.GET("/api/ledger")) });
/** The versions in the library: all, or those that hold words in their name or text. */
export const useLibrary = (q = "", enabled = true) =>
  useQuery({
    enabled,
    queryKey: keys.library(q),
    queryFn: () => ask(api.GET("/api/library", { params: { query: { q } } })),
    placeholderData: (before) => before,
  });
export const useSpace = () =>
  useQuery({ queryKey: keys.space, queryFn: () => ask(api.GET("/api/space")) });
const version = (id: number) => ({
  queryKey: keys.version(id),
  queryFn: () => ask(api.GET("/api/versions/{id}", { params: { path: { id } } })),
  retry: false,
});
export const useVersion = (id: number) => useQuery(version(id));
export const useVersions = (ids: number[]) =>
  useQueries({ queries: ids.map(version) }).flatMap((v) => v.data?.version ?? []);
export const useCourses = () =>
  useQuery({ queryKey: keys.courses, queryFn: () => ask(api.GET("/api/courses")) });
export const useEnrolments = () =>
  useQuery({ queryKey: keys.enrolments, queryFn: () => ask(api.GET("/api/enrolments")) });
export const useSettings = () =>
  useQuery({
    queryKey: keys.settings,
    queryFn: () => ask(api.GET("/api/settings")),
    staleTime: 300_000,
  });

/** Does something at the server, then all that it may have changed is asked for anew; a "no" is said aloud. */
export function useAct<What, Answer>(
  act: (what: What) => Promise<Answer>,
  gone?: readonly unknown[],
) {
  const client = useQueryClient();
  const say = useSay();
  return useMutation({
    mutationFn: act,
    onSettled: (_, error) =>
      client.invalidateQueries({
        // What was removed is not asked for again.
        predicate: (q) =>
          changes(q.queryKey) &&
          (error !== null || !gone || !gone.every((part, n) => q.queryKey[n] === part)),
      }),
    onError: (error) => say(error.message, "trouble"),
  });
}
