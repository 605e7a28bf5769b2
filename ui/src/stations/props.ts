import type { Batch, Channel, Result } from "../api/client";

/** What every station is given: the batch, its result where there is one that fits, as the channel shows it that is looked at, and which injection is chosen. */
export type StationProps = { batch: Batch; result: Result | undefined; index: number; stale: boolean; channel: Channel };
