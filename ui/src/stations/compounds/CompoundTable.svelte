<script lang="ts">
  // The compounds in order of retention, and which peak of the shown injection each of them is.
  import type { Batch, Compound, Injected, Peak } from "../../api/client";
  import Columns from "../../parts/Columns.svelte";
  import { fixed, missing } from "../../look/number";
  import { placeOf } from "./table";
  import { allPeaks, channelOfCompound, channelTitle } from "../../state/channel";

  let {
    list,
    batch,
    injected,
    inWindow,
    chosen,
    hovered,
    choose,
    hover,
    forget,
  }: {
    list: Compound[];
    batch: Batch;
    injected: Injected | undefined;
    inWindow: (c: Compound) => Peak[];
    chosen: string | undefined;
    hovered: number | null;
    choose: (id: string) => void;
    hover: (number: number | null) => void;
    forget: (c: Compound) => void;
  } = $props();

  const method = $derived(batch.version.method);
  const indexed = $derived(!!method.ladder);
  const related = $derived(list.some((c) => c.reference));
  const several = $derived(batch.version.method.channels.length > 1);
  const winner = (c: Compound) => (injected ? allPeaks(injected).find((p) => p.compound_id === c.id) : undefined);
</script>

<Columns stay={1} role="region" aria-label="Compounds" class="compounds">
  <table>
    <thead
      ><tr
        ><th class="l">Compound</th><th class="l">Role</th>{#if several}<th class="l">Channel</th>{/if}<th>Expected, min</th><th class="l"
          >Window</th
        ><th class="l">Peak taken</th><th>Found, min</th><th>Shift, min</th><th>In window</th>{#if indexed}<th>Index</th
          >{/if}{#if related}<th>Relative</th>{/if}<th></th></tr
      ></thead
    >
    <tbody>
      {#each list as c (c.id)}
        {@const won = winner(c)}
        {@const there = inWindow(c)}
        {@const at = placeOf(c, injected)}
        <tr
          class:sel={c.id === chosen}
          class:hov={won && won.number === hovered}
          onclick={() => choose(c.id)}
          onpointerenter={() => hover(won?.number ?? null)}
          onpointerleave={() => hover(null)}
        >
          <td class="l"><button class="nm" onclick={() => choose(c.id)} title="Selects the compound">{c.name}</button></td>
          <td class="l sec"
            >{c.role === "target" ? "target" : `int. std, ${c.amount} ${method.curves.unit}`}{c.reference ? ", reference" : ""}{c.group
              ? `, ${c.group}`
              : ""}</td
          >
          {#if several}{@const channel = channelOfCompound(method, c.id)}<td class="l sec">{channel ? channelTitle(batch, channel) : ""}</td
            >{/if}
          <td>{fixed(at.expected_min, 3)}</td>
          <td class="l">± {c.window.value} {c.window.kind === "percent" ? "%" : c.window.kind === "index" ? "index" : "min"}</td>
          <td class="l sec">{c.rule}</td>
          <td class:mut={!won}>{won ? fixed(won.apex_min, 3) : missing}</td>
          <td class:mut={!won}>{won ? fixed(won.apex_min - at.expected_min, 3) : missing}</td>
          <td class:cau={there.length > 1}>{there.length}</td>
          {#if indexed}<td class:mut={!won?.retention_index}>{fixed(won?.retention_index, 1)}</td>{/if}
          {#if related}<td class:mut={!won?.relative_retention}>{fixed(won?.relative_retention, 4)}</td>{/if}
          <td
            ><button
              class="mut"
              aria-label="Take {c.name} off the list"
              title="Takes the compound off the list; what that does to amounts is said before"
              onclick={(e) => (e.stopPropagation(), forget(c))}>×</button
            ></td
          >
        </tr>
      {:else}
        <tr><td class="l mut" colspan="12">No compounds yet. Click a peak and type its name.</td></tr>
      {/each}
    </tbody>
  </table>
</Columns>

<style>
  :global(.compounds) {
    flex: 0 1 auto;
    max-height: 42%;
  }
  .nm {
    text-align: left;
  }
  tbody tr {
    cursor: pointer;
  }
</style>
