<script lang="ts">
  // Bringing in: what came is seen before anything is kept. Refused files say where and why; files of one injection hang together.
  import type { Batch, Looked } from "../../../api/client";
  import { count } from "../../../look/number";
  import { keys } from "../../../state/keys.svelte";
  import LookRow from "./LookRow.svelte";
  import { look } from "./look.svelte";
  import ReadText from "./ReadText.svelte";

  let { batch }: { batch: Batch } = $props();
  let order = $state<"name" | "time">("name");
  let at = $state(0);
  /** Those that belong to another stand right below it. */
  const rows = $derived.by(() => {
    const heads = look.files.filter((f) => !f.with_id || look.apart.includes(f.id));
    if (order === "time") heads.sort((a, b) => (a.acquired_at ?? "9").localeCompare(b.acquired_at ?? "9"));
    return heads.flatMap((h) => [
      { file: h, joined: false },
      ...look.files.filter((f) => f.with_id === h.id && !look.apart.includes(f.id)).map((file) => ({ file, joined: true })),
    ]);
  });
  /** While files come only a screenful and more is drawn: a long list drawn anew for each would hold them up. */
  const whileComing = 60;
  const drawn = $derived(look.coming.length ? rows.slice(0, whileComing) : rows);
  const more = $derived(rows.length - drawn.length + Math.max(0, look.coming.length - 12));
  const current = $derived(rows[Math.min(at, rows.length - 1)]?.file as Looked | undefined);
  const texts = $derived(look.files.filter((f) => f.status === "refused" && f.text).length);
  $effect(() =>
    keys({
      j: () => (at = Math.min(rows.length - 1, at + 1)),
      k: () => (at = Math.max(0, at - 1)),
      x: () => current?.status === "coming" && look.toggle(current.id),
      Enter: () => !look.text && look.coming.length === 0 && void look.take(),
      Escape: () => (look.text ? (look.text = "") : void look.putBack()),
    }),
  );
</script>

{#if look.text && look.files.some((f) => f.id === look.text)}
  {#key look.text}<ReadText {batch} id={look.text} />{/key}
{:else}
  <div class="head">
    <h1>Bring in</h1>
    <span class="note"
      >{count(look.files.length, "file")}{look.coming.length ? `, ${look.coming.length} on their way` : ""} · nothing is in the batch yet</span
    >
    <span class="tools">
      <label class="chk" title="Else in the order of their names"
        ><input type="checkbox" checked={order === "time"} onchange={() => (order = order === "time" ? "name" : "time")} />in order of
        acquisition</label
      >
    </span>
  </div>
  {#if look.trouble}<p class="att pad" role="alert">
      {look.trouble} <button class="lnk" onclick={() => (look.trouble = "")}>close</button>
    </p>{/if}
  {#if texts > 0}<p class="note pad">
      {count(texts, "text")} of unknown shape: say of one what its lines hold, and the others of its shape are read so too.
    </p>{/if}
  <div class="roll" role="region" aria-label="Files that came">
    <table>
      <thead
        ><tr
          ><th></th><th></th><th class="l">Sample, file</th><th class="l">Acquired</th><th class="l">Signals</th><th class="l">Missing</th
          ></tr
        ></thead
      >
      <tbody>
        {#each drawn as r, k (r.file.id)}
          <LookRow file={r.file} joined={r.joined} current={r.file.id === current?.id} choose={() => (at = k)} />
        {/each}
        {#each look.coming.slice(0, 12) as name (name)}<tr class="wait"><td></td><td></td><td class="l mut" colspan="4">{name} …</td></tr
          >{/each}
        {#if more > 0}<tr class="wait"><td></td><td></td><td class="l mut" colspan="4">and {more} more …</td></tr>{/if}
      </tbody>
    </table>
  </div>
{/if}

<style>
  .pad {
    padding: 0 16px 6px;
  }
  .wait td {
    height: 30px;
    border-bottom: 1px dotted var(--mist-2);
  }
</style>
