<script lang="ts">
  // What the labels at the apexes say, and their angle.
  import { Popover, Portal } from "@skeletonlabs/skeleton-svelte";
  import { labels } from "./labels.svelte";

  const turn = (key: string) =>
    labels.set({ chosen: labels.chosen.includes(key) ? labels.chosen.filter((k) => k !== key) : [...labels.chosen, key] });
</script>

<Popover positioning={{ placement: "bottom-end" }}>
  <Popover.Trigger class="lnk" title="What the labels at the apexes say, and their angle">labels</Popover.Trigger>
  <Portal>
    <Popover.Positioner>
      <Popover.Content class="label-menu" aria-label="Labels">
        <label class="chk"
          ><input type="checkbox" checked={labels.shown} onchange={() => labels.set({ shown: !labels.shown })} />show labels</label
        >
        <label class="chk"><input type="checkbox" checked={labels.name} onchange={() => labels.set({ name: !labels.name })} />name</label>
        {#each labels.choices as [key, word] (key)}
          <label class="chk"><input type="checkbox" checked={labels.chosen.includes(key)} onchange={() => turn(key)} />{word}</label>
        {/each}
        <div class="angles" role="group" aria-label="Angle">
          {#each [0, 45, 90] as angle (angle)}
            <button class:on={labels.angle === angle} aria-pressed={labels.angle === angle} onclick={() => labels.set({ angle })}
              >{angle}°</button
            >
          {/each}
        </div>
      </Popover.Content>
    </Popover.Positioner>
  </Portal>
</Popover>

<style>
  :global(.label-menu) {
    background: var(--paper);
    border: 1px solid var(--ink-3);
    padding: 8px 12px;
    display: grid;
    gap: 3px;
    z-index: 20;
  }
  :global(.label-menu .chk) {
    min-height: 24px;
  }
  .angles button {
    min-width: 24px;
    min-height: 24px;
  }
  .angles {
    display: flex;
    gap: 10px;
    padding-top: 4px;
    font-size: 12.5px;
  }
  .on {
    font-weight: 600;
    border-bottom: 2px solid var(--ink);
  }
</style>
