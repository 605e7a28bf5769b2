<script lang="ts">
  import type { RecordRow } from "../../api/client";

  let { row }: { row: RecordRow } = $props();
  let open = $state(false);
  /** The hour of today, the day of other days. */
  const moment = (t: string) => {
    const at = new Date(t);
    return at.toDateString() === new Date().toDateString()
      ? at.toLocaleTimeString("en-GB", { hour: "2-digit", minute: "2-digit" })
      : at.toLocaleDateString("en-GB", { day: "numeric", month: "short" });
  };
  const when = $derived(`${new Date(row.at).toLocaleString("en-GB")}${row.clock ? `; the clock stood ${row.clock}` : ""}`);
</script>

<div class="row">
  <span>{row.action}: {row.subject}{row.why ? ` (${row.why})` : ""}</span>
  <span class="mut"><time datetime={row.at} title="row {row.seq}, {when}">{moment(row.at)}</time>, {row.who}</span>
  {#if row.differences.length > 0 && row.action !== "import"}
    <button class="lnk" aria-expanded={open} title="What stood there before, and what stands there since" onclick={() => (open = !open)}
      >old and new</button
    >
  {/if}
</div>
{#if open}
  <table aria-label="Row {row.seq}: old and new">
    <caption>row {row.seq}, {when}</caption>
    <thead><tr><th>what</th><th>old</th><th>new</th></tr></thead>
    <tbody>
      {#each row.differences as d, i (i)}<tr><td>{d.what}</td><td class="was">{d.before || "–"}</td><td>{d.after || "–"}</td></tr>{/each}
    </tbody>
  </table>
  {#if row.more > 0}<p class="note">and {row.more} more</p>{/if}
{/if}

<style>
  .row {
    display: grid;
    grid-template-columns: 1fr auto;
    gap: 0 8px;
    font-size: 12px;
    line-height: 1.35;
    padding: 3px 0;
  }
  .row .lnk {
    justify-self: start;
    font-size: 11px;
  }
  table {
    width: 100%;
    font-size: 11px;
    line-height: 1.35;
    margin: 2px 0 8px;
    table-layout: fixed;
    overflow-wrap: anywhere;
  }
  caption {
    text-align: left;
    color: var(--ink-3);
  }
  th {
    text-align: left;
    padding: 2px 6px 2px 0;
    font-weight: 500;
    color: var(--ink-3);
    height: auto;
    vertical-align: bottom;
  }
  th:first-child {
    width: 50%;
  }
  td {
    padding: 2px 6px 2px 0;
    height: auto;
    text-align: left;
    vertical-align: top;
    white-space: normal;
  }
  .was {
    color: var(--ink-3);
    text-decoration: line-through;
  }
</style>
