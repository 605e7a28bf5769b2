<script lang="ts">
  // One way of reporting, with what it makes of the chosen sample, or what it lacks.
  import { createQuery } from "@tanstack/svelte-query";
  import type { Batch, Method } from "../../api/client";
  import { missing, significant } from "../../look/number";
  import { ask } from "../../state/ask";

  let {
    batch,
    method,
    on,
    word,
    needs,
    doubt = "",
    injection,
    compound,
    choose,
  }: {
    batch: Batch;
    method: Method;
    on: boolean;
    word: string;
    needs: string;
    /** What speaks against it before it is chosen. */
    doubt?: string;
    injection: string;
    compound: string;
    choose: () => void;
  } = $props();
  const trial = createQuery(() => ask.tryMethod(batch.id, batch.revision, { method, injection_id: injection, compound_id: compound }));
  const lacks = $derived(
    trial.data?.problem?.replace(/^Method: /, "") ||
      trial.data?.working?.doubts.find((d) => d.startsWith("There is no sample amount")) ||
      "",
  );
  const value = $derived(lacks ? null : (trial.data?.amount ?? null));
</script>

<button class="way" class:on role="radio" title={lacks || doubt || `${word}: ${needs}`} aria-checked={on} tabindex="-1" onclick={choose}>
  <i aria-hidden="true"></i>
  <span class="word">{word}</span>
  <span class="needs" class:att={lacks} class:cau={!lacks && doubt}>{lacks || doubt || needs}</span>
  <b>{value === null ? missing : significant(value, 3)}</b>
  <span class="unit">{trial.data?.unit ?? ""}</span>
</button>

<style>
  .way {
    display: grid;
    grid-template-columns: 22px 232px minmax(0, 1fr) 84px 76px;
    align-items: baseline;
    width: 100%;
    height: 26px;
    line-height: 25px;
    padding: 0 8px;
    text-align: left;
    border-bottom: 1px solid var(--mist-1);
  }
  @container main (max-width: 760px) {
    .way {
      grid-template-columns: 22px 1fr 84px 76px;
      height: auto;
    }
    .needs {
      grid-area: 2 / 2 / 3 / -1;
    }
  }
  .way.on {
    background: var(--row-ai);
    box-shadow: inset 3px 0 0 var(--ai);
  }
  i {
    width: 10px;
    height: 10px;
    border: 1px solid var(--ink-3);
    border-radius: 50%;
    align-self: center;
  }
  .on i {
    border-color: var(--ai);
    background: var(--ai);
    box-shadow: inset 0 0 0 2px var(--paper);
  }
  .word {
    font: 400 15px/25px var(--f-read);
  }
  .needs {
    font-size: 12.5px;
    color: var(--ink-2);
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
  .needs.cau {
    color: var(--ochre-text);
  }
  .needs.att {
    color: var(--kaki-text);
  }
  b {
    text-align: right;
    font-weight: 600;
    font-size: 13px;
  }
  .unit {
    padding-left: 8px;
    font-size: 12.5px;
    color: var(--ink-2);
  }
</style>
