<script lang="ts">
  // The change that is looked at: large, with what it does, what speaks against it, and what is said of it.
  import type { Batch, Review, ReviewItem } from "../../api/client";
  import { fixed, missing, significant } from "../../look/number";
  import BeforeAfter from "./BeforeAfter.svelte";
  import { reviewing } from "./review.svelte";
  import { kinds, when } from "./words";

  let {
    batch,
    r,
    item,
    number,
    of,
    names,
  }: { batch: Batch; r: Review; item: ReviewItem; number: number; of: number; names: Record<string, string> } = $props();
  const area = (p: { area_s: number } | null | undefined) => (p ? significant(p.area_s, 4) : missing);
  const change = (a: number | null | undefined, b: number | null | undefined) =>
    a && b !== null && b !== undefined ? `${b > a ? "+" : ""}${fixed((100 * (b - a)) / Math.abs(a), 1)} %` : missing;
  const value = (v: number | null) => (v === null ? missing : significant(v, 4));
</script>

<section aria-label="The change">
  <h2>{number} of {of} <span class="r">{kinds[item.kind]}</span></h2>
  <p class="title">{item.what} <span class="note">{item.where}</span></p>
  {#if item.drawn}
    <BeforeAfter drawn={item.drawn} width={276} height={150} axes hold={reviewing.hold} />
    <p class="legend"><span class="b">before</span><span class="a">after</span></p>
  {:else}
    <p class="fact"><span>before</span><span>{item.before || "none"}</span></p>
    <p class="fact"><span>after</span><span>{item.after || "none"}</span></p>
  {/if}
  {#if item.effect || item.drawn?.before || item.drawn?.after}
    <table aria-label="What it does">
      <thead><tr><th></th><th>before</th><th>after</th><th>change</th></tr></thead>
      <tbody>
        {#if item.drawn && !item.drawn.points?.length}<tr
            ><td class="l">Area, {item.drawn.unit ? `${item.drawn.unit}·s` : "signal·s"}</td><td class="mut">{area(item.drawn.before)}</td
            ><td>{area(item.drawn.after)}</td><td>{change(item.drawn.before?.area_s, item.drawn.after?.area_s)}</td></tr
          >{/if}
        {#if item.effect}<tr
            ><td class="l">{item.effect.group || names[item.effect.compound_id] || ""}, {item.effect.of}, {item.effect.unit}</td><td
              class="mut">{value(item.effect.before)}</td
            ><td>{value(item.effect.after)}</td><td>{change(item.effect.before, item.effect.after)}</td></tr
          >{/if}
      </tbody>
    </table>
  {/if}
  <p class="note">
    {#if !item.reckoned}Its effect is being reckoned …{:else if item.problem}{item.problem}{:else if !item.effect}It moves no reported
      number.{:else if item.effect.moved.length > 1}It moves {item.effect.moved.length} reported numbers; this one most.{/if}
  </p>
  <p class="said">“{item.why || "no reason was given"}” {item.who}{item.at.startsWith("0001") ? "" : `, ${when(item.at)}`}.</p>
  {#each item.says as s (s)}<p class="note">{s}</p>{/each}
  {#if item.judged}<p class="said" class:att={item.judged.verdict === "sent back"}>
      {item.judged.verdict === "accepted" ? "Accepted" : "Sent back"} by {item.judged.who}, {when(item.judged.at)}{item.judged.remark
        ? `: ${item.judged.remark}`
        : ""}
    </p>{/if}
  {#if r.why_not_judge}<p class="note">{r.why_not_judge}</p>
  {:else}
    <p class="acts">
      <button
        class="btn pri"
        disabled={reviewing.busy}
        title="It is right so (Enter)"
        onclick={() => reviewing.judge(batch, r, [item], "accepted")}>Accept <kbd>Enter</kbd></button
      >
      <button
        class="btn"
        disabled={reviewing.busy}
        title="It is to be looked at again, by who did it (X)"
        onclick={() => reviewing.judge(batch, r, [item], "sent back")}>Send back <kbd>X</kbd></button
      >
    </p>
    <label class="note" for="review-remark">Remark, must be there to send back</label>
    <textarea
      id="review-remark"
      class="field"
      rows="2"
      maxlength="500"
      title="What is to be looked at again, and why (R)"
      bind:value={reviewing.remark}
      onkeydown={(e) => e.key === "Escape" && e.currentTarget.blur()}></textarea>
  {/if}
  {#if reviewing.trouble}<p class="att" role="alert">{reviewing.trouble}</p>{/if}
</section>

<style>
  .title {
    font-weight: 600;
    margin-bottom: 4px;
  }
  .legend {
    display: flex;
    gap: 18px;
    font-size: 12px;
    color: var(--ink-2);
    margin-bottom: 4px;
  }
  .legend span::before {
    content: "";
    display: inline-block;
    width: 20px;
    margin-right: 5px;
    vertical-align: 3px;
    border-top: 1.5px solid var(--ai);
  }
  .legend .b::before {
    border-top: 1.5px dotted var(--kaki);
  }
  .fact {
    display: flex;
    justify-content: space-between;
    gap: 12px;
    border-bottom: 1px solid var(--mist-1);
    padding: 3px 0;
    overflow-wrap: anywhere;
  }
  table {
    width: 100%;
    table-layout: fixed;
    font-size: 12.5px;
  }
  th:first-child {
    width: 40%;
  }
  td.l {
    padding-left: 0;
    white-space: normal;
  }
  .mut {
    color: var(--ink-2);
  }
  .said {
    margin-top: 5px;
    font-size: 13px;
  }
  .acts {
    display: flex;
    gap: 8px;
    margin: 10px 0 8px;
  }
  textarea {
    width: 100%;
    resize: vertical;
  }
  .att {
    color: var(--kaki-text);
  }
</style>
