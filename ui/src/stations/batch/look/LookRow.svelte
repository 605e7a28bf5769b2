<script lang="ts">
  // One file that is looked at: what it is, what it holds, what it does not say.
  import type { Looked } from "../../../api/client";
  import Mark from "../../../parts/Mark.svelte";
  import { look } from "./look.svelte";

  let { file, joined, current, choose }: { file: Looked; joined: boolean; current: boolean; choose: () => void } = $props();
  const can = $derived(file.status === "coming");
  const taken = $derived(can && !look.out.includes(file.id));
  const day = (t: string) =>
    new Date(t).toLocaleString("en-GB", { day: "numeric", month: "short", hour: "2-digit", minute: "2-digit", timeZone: "UTC" });
  const path = $derived(
    file.silhouette
      .map((v, i) => `${i ? "L" : "M"}${((i / (file.silhouette.length - 1)) * 78 + 1).toFixed(1)} ${(21 - 19 * v).toFixed(1)}`)
      .join(""),
  );
</script>

<tr class:sel={current} class:bad={file.status === "refused"} class:joined onclick={choose}>
  <td class="tick"
    >{#if can}<input
        type="checkbox"
        checked={taken}
        aria-label="Take in {file.file}"
        title="Whether it is taken in"
        onchange={() => look.toggle(file.id)}
      />{:else if file.status === "refused"}<Mark name="look" />{/if}</td
  >
  <td class="shape"
    ><svg width="80" height="23" aria-hidden="true"
      ><path
        d={path || "M1 21H79"}
        fill="none"
        stroke="var({can ? '--ink' : '--mist-3'})"
        stroke-width="1"
        stroke-dasharray={file.status === "already" ? "2 2" : undefined}
      /></svg
    ></td
  >
  <td class="l"
    ><b>{file.sample_name || file.file}</b><span class="mut"
      >{file.sample_name ? file.file : ""}{file.with && !look.apart.includes(file.id) ? ` · with ${file.with}` : ""}</span
    ></td
  >
  {#if file.status === "refused"}
    <td class="l why" colspan="3"
      ><span class="att">{file.message}</span>
      {#if file.text}<button class="lnk" title="Says what its lines hold" onclick={() => (look.text = file.id)}
          >say what its lines hold</button
        >{/if}
      <button class="lnk" title="Takes it off the list" onclick={() => look.leaveOut(file.id)}>leave out</button></td
    >
  {:else}
    <td class="l">{file.acquired_at ? day(file.acquired_at) : ""}</td>
    <td class="l sig"
      >{#each file.signals.slice(0, 4) as s (s.name + s.unit)}<span class={s.kind} title="{s.points} points"
          ><i aria-hidden="true"></i>{s.name}</span
        >{/each}{#if file.signals.length > 4}<span class="mut">and {file.signals.length - 4} more</span>{/if}</td
    >
    <td class="l"
      >{#if file.status === "already"}<span class="mut">here already: stays as it is</span>
      {:else if file.missing.length}<span class="cau">no {file.missing.join(", no ")}</span>{:else}<span class="mut">nothing</span>{/if}
      {#if file.doubt}<span class="cau">{file.doubt}</span>{/if}
      {#if file.message && file.status === "coming"}<span class="cau" title={file.message}>looks cut off</span>{/if}
      {#if file.text && can}<button class="lnk" title="How its lines are read" onclick={() => (look.text = file.id)}
          >{look.profiles[file.id] ? "read so" : file.profile ? `by ${file.profile}` : "lines"}</button
        >{/if}
      {#if can}<button
          class="lnk"
          title="What the method and curves of this batch make of it; nothing is kept"
          onclick={() => (look.results = look.results === file.id ? "" : file.id)}>results</button
        >{/if}
      {#if file.with && can}<button
          class="lnk"
          title={look.apart.includes(file.id) ? "Files of one injection again" : "An injection of its own"}
          onclick={() => look.part(file.id)}>{look.apart.includes(file.id) ? "join" : "part"}</button
        >{/if}</td
    >
  {/if}
</tr>

<style>
  td {
    padding: 3px 8px;
    height: 34px;
    vertical-align: middle;
    border-bottom: 1px solid var(--mist-1);
  }
  .tick {
    width: 28px;
  }
  .shape {
    width: 90px;
  }
  tr.joined .shape {
    padding-left: 20px;
  }
  tr.joined b {
    font-weight: 400;
  }
  b {
    font-weight: 600;
    display: block;
    line-height: 17px;
  }
  .mut {
    font-size: 12px;
  }
  .bad {
    background: var(--row-kaki);
  }
  .why {
    white-space: normal;
  }
  .sig span {
    margin-right: 10px;
    white-space: nowrap;
  }
  .sig i {
    display: inline-block;
    width: 16px;
    border-top: 2px solid var(--ink);
    margin-right: 4px;
    vertical-align: middle;
  }
  .sig .condition i {
    border-top-color: var(--ochre);
  }
</style>
