<script lang="ts">
  // Retention of one compound through the run, small.
  let { name, at, index, standard }: { name: string; at: (number | null)[]; index: number; standard: boolean } = $props();
  const there = $derived(at.filter((v): v is number => v !== null));
  const low = $derived(Math.min(...there));
  const high = $derived(Math.max(...there));
  const width = 96;
  const x = (k: number) => 2 + (k / Math.max(1, at.length - 1)) * (width - 4);
  const y = (v: number) => 15 - ((v - low) / (high - low || 1)) * 12;
  const path = $derived.by(() => {
    let d = "";
    let on = false;
    at.forEach((v, k) => {
      if (v === null) on = false;
      else {
        d += `${on ? "L" : "M"}${x(k).toFixed(1)} ${y(v).toFixed(1)}`;
        on = true;
      }
    });
    return d;
  });
</script>

<p class="spark">
  <span class:moss={standard}>{name}</span>
  <svg {width} height="18" aria-hidden="true"
    ><path d={path} fill="none" stroke="var({standard ? '--moss' : '--ink-2'})" stroke-width="1.1" />
    {#if at[index] !== null && at[index] !== undefined}<circle cx={x(index)} cy={y(at[index]!)} r="2.2" fill="var(--kaki)" />{/if}</svg
  >
  <span class="num">{low.toFixed(2)} – {high.toFixed(2)}</span>
</p>

<style>
  .spark {
    display: grid;
    grid-template-columns: minmax(0, 1fr) 96px 84px;
    gap: 6px;
    align-items: center;
    font-size: 12.5px;
    min-height: 23px;
    border-bottom: 1px solid var(--mist-1);
  }
  .spark span:first-child {
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
  .moss {
    color: var(--moss);
  }
</style>
