<script lang="ts">
  // The files with what is read from their names; any cell can be typed over, which keeps it.
  import type { Batch, WholeWay } from "../../../api/client";
  import { fixed, missing } from "../../../look/number";
  import Glyph, { stairSteps } from "../../../parts/Glyph.svelte";
  import { desk } from "../../../state/desk.svelte";
  import { place } from "../../../state/place.svelte";
  import { way } from "./way.svelte";

  let { batch, whole, unit }: { batch: Batch; whole: WholeWay; /** Of the signal. */ unit: string } = $props();
  const levels = $derived(
    [...new Set(whole.rows.flatMap((r) => (r.role === "standard" && r.level !== null ? [r.level] : [])))].sort((a, b) => a - b),
  );
  const parts = (r: WholeWay["rows"][number]) => {
    const letters = [...r.file];
    return [
      letters.slice(0, r.from.from).join(""),
      letters.slice(r.from.from, r.from.to).join(""),
      letters.slice(Math.max(r.from.from, r.from.to)).join(""),
    ];
  };
  const roles = ["", "blank", "standard", "check", "sample"];
  const set = (id: string, field: "role" | "level", value: string) => desk.setEntries([{ injection_id: id, field, value }]);
</script>

<table aria-label="Files">
  <thead
    ><tr><th class="l">File</th><th class="l">Role</th><th>Level</th><th class="l">Unit</th><th>Area{unit ? `, ${unit}·s` : ""}</th></tr
    ></thead
  >
  <tbody>
    {#each whole.rows as r (r.injection_id)}
      {@const [before, read, after] = parts(r)}
      {@const known = !way.asCame || !r.role_proposed}
      <tr
        class:sel={r.injection_id === place.query.i}
        class:wrong={r.doubt !== ""}
        onclick={() => place.go({ query: { i: r.injection_id } }, false)}
      >
        <td class="l name" title={r.doubt || `${r.file}; read from ${read || "its header, or not at all"}`}>{before}<b>{read}</b>{after}</td
        >
        <td class="l"
          ><span class="glyph"
            >{#if known}<Glyph role={r.role} steps={stairSteps(r.level, levels)} />{/if}</span
          ><select
            class="field"
            class:proposed={known && r.role_proposed}
            aria-label="Role of {r.file}"
            title={r.role_proposed ? "Proposed from the name; choosing keeps it" : "The role"}
            value={known ? r.role : ""}
            onchange={(e) => set(r.injection_id, "role", e.currentTarget.value)}
          >
            {#each roles as role (role)}<option value={role}>{role || missing}</option>{/each}
          </select></td
        >
        <td
          >{#if r.role === "standard" || r.role === "check"}<input
              class="field num"
              class:proposed={!way.asCame && r.level_proposed}
              aria-label="Level of {r.file}"
              title={r.level_proposed ? "Proposed from the name; typing over it keeps what is typed" : "The level"}
              placeholder={missing}
              value={(way.asCame && r.level_proposed ? null : r.level) ?? ""}
              onchange={(e) => set(r.injection_id, "level", e.currentTarget.value)}
            />{:else}<span class="mut">{missing}</span>{/if}</td
        >
        <td class="l" class:proposed={whole.unit_from === "names" && r.level_proposed}
          >{r.level !== null ? whole.unit || missing : missing}</td
        >
        <td class:mut={r.area_s === null}>{fixed(r.area_s, 1)}</td>
      </tr>
    {/each}
  </tbody>
</table>
<p class="note">
  {whole.rows.some((r) => r.doubt)
    ? whole.rows.find((r) => r.doubt)!.doubt
    : whole.rows.some((r) => r.from.to > 0)
      ? "Read from the bold part of each name; any cell can be typed over."
      : "The names say nothing of roles and levels: choose and type them here, or paste them at the run list."}
</p>
{#if batch.injections.length === 1}<p class="note">
    One file: its peaks are measured. For an amount it needs standards beside it; drop them here.
  </p>{/if}

<style>
  td {
    height: 24px;
    padding: 0 6px;
  }
  .name {
    max-width: 210px;
    overflow: hidden;
    text-overflow: ellipsis;
  }
  b {
    font-weight: 600;
  }
  .glyph {
    display: inline-block;
    width: 18px;
  }
  select.field {
    width: 78px;
    height: 24px;
    padding: 0;
    appearance: none;
    border-bottom-color: transparent;
    font-size: 12.5px;
  }
  input.field {
    width: 52px;
    height: 24px;
    border-bottom-color: transparent;
    font-size: 12.5px;
    text-align: right;
  }
  input.proposed {
    border-bottom: 1.5px dotted var(--ai);
  }
  .proposed:not(input) {
    text-decoration: underline dotted var(--ai) 1.5px;
    text-underline-offset: 3px;
  }
  tr.wrong td.name {
    box-shadow: inset 3px 0 0 var(--kaki);
  }
</style>
