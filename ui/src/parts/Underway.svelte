<script lang="ts">
  import { about, left, underway } from "../state/underway.svelte";

  $effect(() => void underway.read());
</script>

<!-- What takes its time stands at the foot of the window until it has ended. -->
{#if underway.told.length > 0}
  <aside aria-label="Under way" role="status">
    {#each underway.told.slice(0, 4) as j (j.id)}
      <p class:bad={j.state === "failed"}>
        <span class="what">{about(j)}</span>
        {#if j.state === "failed"}
          <span class="why">{j.message}</span>
          <button class="lnk" onclick={() => underway.putAway(j)}>close</button>
        {:else}
          <span class="line" style:--done={j.total ? j.done / j.total : 0} class:open={!j.total} aria-hidden="true"></span>
          <span class="num">{j.total ? `${j.done} of ${j.total}` : ""}</span>
          <span class="num left">{left(j)}</span>
          <button class="lnk" onclick={() => underway.ask(j, "stop")} aria-label="Stop: {about(j)}">stop</button>
        {/if}
      </p>
    {/each}
    {#if underway.told.length > 4}<p class="more">and {underway.told.length - 4} more</p>{/if}
  </aside>
{/if}

<style>
  aside {
    position: fixed;
    right: 16px;
    bottom: 32px;
    z-index: 20;
    width: 420px;
    background: var(--paper);
    border: 1px solid var(--ink-3);
    padding: 6px 12px;
    font-size: 12px;
  }
  p {
    display: grid;
    grid-template-columns: minmax(0, 1fr) 70px auto 64px auto;
    gap: 10px;
    align-items: center;
    line-height: 22px;
  }
  .what {
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
  .line {
    height: 3px;
    background: linear-gradient(var(--ai) 0 0) 0 0 / calc(var(--done) * 100%) 100% no-repeat var(--mist-1);
  }
  .line.open {
    background: repeating-linear-gradient(90deg, var(--mist-3) 0 4px, var(--mist-1) 4px 8px);
  }
  .num {
    color: var(--ink-3);
    text-align: right;
    font-variant-numeric: tabular-nums;
    white-space: nowrap;
  }
  .bad {
    grid-template-columns: auto minmax(0, 1fr) auto;
    color: var(--kaki-text);
  }
  .more {
    color: var(--ink-3);
  }
</style>
