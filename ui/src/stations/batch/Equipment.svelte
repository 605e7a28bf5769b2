<script lang="ts">
  // What the file says of equipment and settings; what is otherwise than in most injections of the batch is pointed at.
  import type { Batch, Injection } from "../../api/client";

  let { batch, injection }: { batch: Batch; injection: Injection } = $props();
  type Setting = NonNullable<Injection["header"]["settings"]>[number];
  const key = (s: Setting) => `${s.group ?? ""}/${s.name}`;
  const text = (s: Setting) => `${s.value}${s.unit ? ` ${s.unit}` : ""}`;
  /** What most injections have, by setting; nothing where no value is that of more than half. */
  const usual = $derived.by(() => {
    const counts = new Map<string, Map<string, number>>();
    for (const i of batch.injections)
      for (const s of i.header.settings ?? []) {
        const of = counts.get(key(s)) ?? new Map<string, number>();
        counts.set(key(s), of.set(text(s), (of.get(text(s)) ?? 0) + 1));
      }
    const most = new Map<string, string>();
    for (const [k, of] of counts) {
      const top = [...of].toSorted((a, b) => b[1] - a[1])[0]!;
      if (top[1] * 2 > batch.injections.length) most.set(k, top[0]);
    }
    return most;
  });
  const list = $derived(injection.header.settings ?? []);
  const otherwise = (s: Setting) => usual.has(key(s)) && usual.get(key(s)) !== text(s);
  const differ = $derived(list.filter(otherwise).length);
</script>

{#if list.length > 0}
  <section aria-label="Conditions">
    <h2>
      Conditions <span class="r"
        >{differ ? `${differ} otherwise than in most` : batch.injections.length > 1 ? "as in most" : "as the file has them"}</span
      >
    </h2>
    <dl>
      {#each list as s, i (i)}
        <dt title={s.name}>{s.name}</dt>
        <dd class:cau={otherwise(s)} title={otherwise(s) ? `most injections have ${usual.get(key(s))}` : text(s)}>{text(s)}</dd>
      {/each}
    </dl>
  </section>
{/if}

<style>
  dl {
    display: grid;
    grid-template-columns: minmax(0, 2fr) minmax(0, 3fr);
    gap: 0 10px;
    font-size: 12.5px;
    line-height: 20px;
  }
  dt {
    color: var(--ink-3);
  }
  dt,
  dd {
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
</style>
