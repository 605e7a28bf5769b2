<script lang="ts">
  // What was asked for, what it is now, and what may be changed meanwhile.
  import type { BenchPost } from "../api/client";
  import { place } from "../state/place.svelte";
  import { bench } from "./bench.svelte";

  let { post }: { post: BenchPost } = $props();
  const stand = $derived(post.state!);
  const may: Record<string, string> = { fixed: "fixed", next: "next run", longer: "longer only" };
  const open = $derived(stand.list_id !== "" && stand.phase !== "leaving");
  function change(id: string, text: string) {
    const v = Number(text.replace(",", "."));
    if (text.trim() !== "" && Number.isFinite(v)) void bench.act(post.id, { kind: "sets", what: id, value: v });
  }
</script>

<section aria-label="Conditions">
  <div class="hd">
    <h2>Conditions</h2>
    {#if post.list}<span class="note">as in {post.list.method}</span>{/if}
  </div>
  <table aria-label="Conditions of {post.name}">
    <thead><tr><th class="l">{post.name}</th><th>asked</th><th>now</th><th class="l">may change</th></tr></thead>
    <tbody>
      {#each stand.settings as s (s.id)}<tr>
          <td class="l">{s.name}</td>
          <td class="num"
            >{#if s.change === "next" && open}<input
                class="field num"
                value={s.asked}
                inputmode="decimal"
                aria-label="{s.name}, {s.unit || 'times'}"
                title="Between {s.low} and {s.high} {s.unit}; from the next injection"
                onchange={(e) => change(s.id, e.currentTarget.value)}
              /> <span class="mut">{s.unit}</span>{:else}{s.says}{/if}</td
          >
          <td class="num mut">{s.now === null ? "–" : String(Number(s.now.toPrecision(4)))}</td>
          <td class="l mut">{may[s.change]}</td>
        </tr>{/each}
      <tr>
        <td class="l">Run time</td>
        <td class="num"
          >{#if open}<input
              class="field num"
              value={stand.run_min}
              inputmode="decimal"
              aria-label="Run time, min"
              title="It can be made longer, not shorter"
              onchange={(e) => change("run", e.currentTarget.value)}
            /> <span class="mut">min</span>{:else}{stand.run_min.toFixed(1)} min{/if}</td
        >
        <td class="num mut">{stand.at_min === null ? "–" : stand.at_min.toFixed(1)}</td>
        <td class="l mut">longer only</td>
      </tr>
    </tbody>
  </table>
  {#if post.list}<p class="note">
      Fixed: results of one batch come from one way of measuring.
      <button class="lnk" title="Opens the batch" onclick={() => place.go({ batch: post.list!.batch_id, station: "batch", query: {} })}
        >Open {post.list.batch}</button
      >
    </p>{/if}
</section>

<style>
  section {
    min-width: 0;
    overflow-y: auto;
  }
  .hd {
    display: flex;
    justify-content: space-between;
    align-items: baseline;
    min-height: 28px;
    gap: 8px;
  }
  .hd .note {
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
  table {
    width: 100%;
  }
  td {
    white-space: nowrap;
  }
  input {
    width: 56px;
  }
</style>
