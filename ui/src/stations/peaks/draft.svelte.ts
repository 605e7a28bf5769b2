// What is tried at Peaks and not kept yet: settings for the whole batch, and edits of one injection in their order.
import type { Batch, Channel, Edit, Injection, Settings } from "../../api/client";
import { count } from "../../look/number";
import { channelIn, withSettings } from "../../state/channel";
import { desk } from "../../state/desk.svelte";
import { reason } from "../../state/reason.svelte";
import { trial } from "./trial.svelte";
import { describe, refusals } from "./words";

/** What a draft stands on. */
type Ground = { batch: Batch; channel: Channel; injection: Injection | undefined; beside: string };

export class Draft {
  tuned = $state<Settings | null>(null);
  /** Edits stand on what the injection has by now, whoever changed it meanwhile. */
  pending = $state<Edit[]>([]);
  constructor(private on: () => Ground) {}

  edits = $derived.by(() => {
    const { injection } = this.on();
    return this.pending.length > 0 && injection ? [...injection.edits, ...this.pending] : null;
  });
  settings = $derived.by(() => this.tuned ?? this.on().channel.peaks);
  previewing = $derived.by(() => this.tuned !== null || this.edits !== null);
  /** Why the newest edit cannot be done; "" where it can. */
  refused = $derived.by(() =>
    trial.injected?.unmatched_edits?.some((u) => this.pending.some((e) => e.kind === u.kind && e.apex_min === u.apex_min))
      ? (refusals[trial.injected.unmatched_edits.at(-1)?.kind ?? ""] ?? "This cannot be done here.")
      : "",
  );

  tune(change: Partial<Settings>) {
    if (!this.on().injection) return;
    this.tuned = { ...this.settings, ...change };
    this.attempt();
  }

  /** Asks what the settings and the edits would give, here and beside. */
  attempt() {
    const { batch, channel, injection, beside } = this.on();
    if (this.previewing && injection)
      trial.try({
        batch: batch.id,
        injection: injection.id,
        channel: channel.id,
        beside: beside || undefined,
        settings: this.settings,
        edits: this.edits,
      });
  }

  discard() {
    this.tuned = null;
    this.pending = [];
    trial.stop();
  }

  /** Takes back the newest thing that is previewed. */
  stepBack() {
    if (this.pending.length > 1 || (this.pending.length === 1 && this.tuned)) {
      this.pending = this.pending.slice(0, -1);
      this.attempt();
    } else this.discard();
  }

  async keep() {
    const { batch, channel, injection } = this.on();
    if (!injection) return;
    const method = batch.version.method;
    const here = this.pending.map(describe).join("; ");
    const why = this.tuned
      ? await reason.ask(
          "Keep as a new method version",
          `${count(method.compounds.length, "compound")}, whole batch, ${count(batch.injections.length, "injection")}.${here ? ` And in ${injection.name} only: ${here}.` : ""}`,
        )
      : await reason.ask(
          this.pending.length === 1 ? "Keep this edit" : `Keep these ${this.pending.length} edits`,
          `${here}, in ${injection.name} only.`,
        );
    if (!why) return;
    while (this.pending.length > 0) {
      if (!(await desk.addEdit(injection.id, this.pending[0]!, why))) return;
      this.pending = this.pending.slice(1);
    }
    if (this.tuned && !(await desk.saveMethod(withSettings(this.on().batch.version.method, channel.id, this.tuned), why))) return;
    this.discard();
  }

  /** Tries an edit on top of those that are tried already; the same one moved on takes the place of where it was. */
  edit(e: Edit) {
    const { batch, channel, injection } = this.on();
    if (!injection) return;
    e = { ...e, channel: channelIn(batch.version.method, channel) };
    const last = this.pending.at(-1);
    const moved = last && last.kind === e.kind && (Math.abs(last.apex_min - e.apex_min) < 0.02 || this.refused);
    this.pending = [...(moved || this.refused ? this.pending.slice(0, -1) : this.pending), e];
    this.attempt();
  }
}
