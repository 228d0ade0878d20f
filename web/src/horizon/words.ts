import type { Line } from "../api/client";

/** How the states are called. */
export const words: Record<Line["state"], string> = {
  not_open: "not open yet",
  open: "open",
  late: "late",
  closed: "closed, nothing sent",
  sending: "on its way",
  waiting: "waiting",
  back: "came back",
  done: "done",
};
