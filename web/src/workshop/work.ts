import { useQuery } from "@tanstack/react-query";
import { useSearchParams } from "react-router";
import { api, ask, type Desk, type Schemas } from "../api/client";
import { useAct, useVersions } from "../shared/queries";
import { keys } from "../shared/queryKeys";

export type Wishes = Schemas["Wishes"];
export type Workpiece = Schemas["Workpiece"];

/** A file that lies before the tools, of the bundle or of the Library; said is the first of its facts. */
export type Chosen = {
  version: number;
  name: string;
  kind: string;
  slot: string;
  said: string;
  library: boolean;
};

/** The files of the bundle, as they lie before the tools. */
export const filesOf = (desk: Desk): Chosen[] =>
  desk.items.map((i) => ({
    version: i.version_id,
    name: i.name,
    kind: i.kind,
    slot: i.slot,
    said: i.facts[0] ?? "",
    library: false,
  }));

/** A file of the Library, which lies there without being in the bundle. */
export const ofLibrary = (v: Schemas["Version"]): Chosen => ({
  version: v.id,
  name: v.name,
  kind: v.kind,
  slot: "",
  said: "Library",
  library: true,
});

/** The files of the bundle, and behind them those of the Library with the given versions. */
export function useFiles(desk: Desk, kept: number[]): Chosen[] {
  const files = filesOf(desk);
  const outside = kept.filter((v) => !files.some((f) => f.version === v));
  return [...files, ...useVersions(outside).map(ofLibrary)];
}

const fromLibrary = "L"; // before the version, in the address

/** Chosen files as the address names them. */
export const addressed = (list: Chosen[]) =>
  list.map((c) => (c.library ? fromLibrary : "") + c.version).join(",");

/** What a tool needs: what it works on, where that belongs, and the way to have it made. */
export type ToolProps = {
  desk: Desk;
  chosen: Chosen[];
  begin: (tool: string, wishes: Wishes, versions?: number[]) => void;
  busy: boolean;
  choose: (list: Chosen[]) => void;
  open: (tool: string, version: number) => void; // with one file
  bench: HTMLElement | null; // the large place, for tools that work there
};

/** What is in the address: the tool, the versions that were chosen, and the workpiece that is looked at. */
export function useBench() {
  const [query, set] = useSearchParams();
  const change = (what: Record<string, string>) =>
    set(
      (old) => {
        for (const [key, value] of Object.entries(what))
          if (value) old.set(key, value);
          else old.delete(key);
        return old;
      },
      { replace: true },
    );
  const chosen = (query.get("v") ?? "").split(",");
  const version = (text: string) => Number(text.replace(fromLibrary, ""));
  return {
    part: Number(query.get("part") ?? 0),
    tool: query.get("tool") ?? "",
    versions: chosen.map(version).filter(Boolean),
    kept: chosen.filter((v) => v.startsWith(fromLibrary)).map(version), // of the Library
    piece: Number(query.get("piece") ?? 0),
    change,
  };
}

/** The workpieces of a part, and what can be done with the one that is looked at. */
export function useWork(id: number, part: number, piece: number, look: (piece: number) => void) {
  const lying = useQuery({
    queryKey: keys.workpieces(id, part),
    queryFn: () =>
      ask(
        api.GET("/api/assignments/{id}/workpieces", { params: { path: { id }, query: { part } } }),
      ),
  });
  const path = { path: { id: piece } };
  const now = useQuery({
    queryKey: keys.workpiece(piece),
    queryFn: () => ask(api.GET("/api/workpieces/{id}", { params: path })),
    enabled: piece > 0,
    retry: false,
    refetchInterval: (q) => (q.state.data?.state === "waiting" ? 400 : false),
  });
  const begin = useAct((what: { tool: string; versions: number[]; wishes: Wishes }) =>
    ask(
      api.POST("/api/assignments/{id}/workpieces", {
        params: { path: { id } },
        body: { part, ...what },
      }),
    ).then((made) => look(made.id)),
  );
  const take = useAct((how: { files: number[]; instead: boolean; slot: string }) =>
    ask(api.POST("/api/workpieces/{id}/taken", { params: path, body: how })),
  );
  const back = useAct(() => ask(api.DELETE("/api/workpieces/{id}/taken", { params: path })));
  const drop = useAct(() => {
    look(0); // nobody looks at it any more when it goes
    return ask(api.DELETE("/api/workpieces/{id}", { params: path }));
  });
  return {
    lying: lying.data ?? [],
    now: piece > 0 ? now.data : undefined,
    begin,
    take,
    back,
    drop,
  };
}
export type Work = ReturnType<typeof useWork>;
