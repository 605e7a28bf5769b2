// What the address names is asked for before anything else of the application runs, so that the network and the script do not wait for each other.
import { pages } from "./state/pages";
import { load } from "./stations/load";

const [first = "", station = "batch"] = location.pathname.split("/").slice(1);
const batch = (pages as readonly string[]).includes(first) ? "" : first;
if (batch && station in load) void load[station as keyof typeof load]().catch(() => {}); // it is asked for again, and its failure told, by the desk
let ahead: Promise<Response | undefined> | undefined = batch
  ? fetch(`/api/batches/${encodeURIComponent(batch)}`).catch(() => undefined)
  : undefined;

/** The answer that was asked for early, once and for that batch only. */
export async function asked<T>(id: string): Promise<T | undefined> {
  if (id !== batch || !ahead) return undefined;
  const answer = await ahead;
  ahead = undefined;
  return answer?.ok ? ((await answer.json()) as T) : undefined;
}
