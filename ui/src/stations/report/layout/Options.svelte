<script lang="ts">
  // Only what can be said of the chosen block.
  import { createQuery } from "@tanstack/svelte-query";
  import type { Batch, Drawn, LayoutBlock } from "../../../api/client";
  import Choice from "../../../parts/Choice.svelte";
  import { ask } from "../../../state/ask";
  import { desk } from "../../../state/desk.svelte";
  import { kinds, type Option } from "./blocks";
  import { draft } from "./draft.svelte";
  import ListOf from "./ListOf.svelte";
  import Values from "./Values.svelte";

  let { batch, missing }: { batch: Batch; missing: Drawn["missing"] } = $props();
  const block = $derived(draft.block as LayoutBlock);
  const kind = $derived(kinds[block.kind]!);
  const has = (o: Option) => kind.options.includes(o);
  let area = $state<HTMLTextAreaElement>();
  let first = $state<HTMLElement>();
  /** Puts the cursor where the block's words are written. */
  export function write() {
    const field = area ?? first?.querySelector<HTMLElement>("input, textarea");
    field?.focus();
  }
  const valueHint = "Values stand in braces: {amount of Caffeine; 3}";
  const quantities = createQuery(() => ask.quantities(batch.id, batch.revision));
  const signals = createQuery(() => ask.signals(batch.id, batch.revision));
  const conditions = $derived((signals.data ?? []).filter((s) => s.kind === "condition").map((s) => s.name));
  const channels = $derived(batch.version.method.channels.slice(1).map((c) => c.signal.name ?? ""));
  const compounds = $derived(batch.version.method.compounds.filter((c) => c.role !== "internal_standard").map((c) => c.name));
  /** What can stand across: compounds, and in a summary sums and the largest peak too. */
  const across = $derived(
    block.kind !== "summary"
      ? compounds
      : [
          ...new Set([
            ...compounds,
            ...batch.version.method.compounds.flatMap((c) => (c.role === "target" && c.group ? [`group:${c.group}`] : [])),
            "largest",
            ...(block.compounds ?? []).filter((id) => id.startsWith("sum:")),
          ]),
        ],
  );
  const acrossWords = (id: string) =>
    id === "largest" ? "largest peak" : id.startsWith("group:") ? `sum of ${id.slice(6)}` : id.startsWith("sum:") ? id.slice(4) : id;
  const numbers = $derived((quantities.data ?? []).filter((q) => q.lives !== "batch" && !["text", "moment"].includes(q.kind)));
  const statistics = ["n", "mean", "sd", "rsd", "minimum", "maximum", "median", "interval"];
  const set = (change: Parameters<typeof draft.change>[0]) => draft.change(change);
  const text = (e: Event) => (e.currentTarget as HTMLInputElement).value;
  const number = (e: Event) => (text(e).trim() === "" || Number.isNaN(Number(text(e))) ? undefined : Number(text(e)));
  const lacks = $derived(missing.filter((m) => m.block === block.id && m.injection_id));

  /** Puts a value into the words, where the cursor is. */
  function put(id: string) {
    const at = area?.selectionStart ?? block.text?.length ?? 0;
    const whole = block.text ?? "";
    set({ text: `${whole.slice(0, at)}{${id}}${whole.slice(at)}` });
  }
  async function picture(e: Event) {
    const file = (e.currentTarget as HTMLInputElement).files?.[0];
    if (!file) return;
    const bytes = new Uint8Array(await file.arrayBuffer());
    if (bytes.length > 1_000_000) {
      draft.trouble = "A picture on a page has at most 1 MB.";
      return;
    }
    set({ picture: btoa(Array.from(bytes, (b) => String.fromCharCode(b)).join("")) });
  }
  async function type(injection: string, field: string, value: string) {
    if (value.trim()) await desk.setEntries([{ injection_id: injection, field: field as never, value: value.trim() }]);
  }
</script>

<section aria-label={kind.word} bind:this={first}>
  <h2>{kind.word} <span class="r">{kind.says}</span></h2>
  {#if has("text")}
    <label class="row tall"
      ><span>{block.kind === "head" ? "Left" : block.kind === "foot" ? "Left" : "Words"}</span>
      {#if block.kind === "text"}<textarea
          class="field"
          rows="5"
          bind:this={area}
          value={block.text ?? ""}
          title={valueHint}
          oninput={(e) => set({ text: text(e) })}></textarea>{:else}<input
          class="field"
          value={block.text ?? ""}
          placeholder={block.kind === "heading" ? "its name" : block.kind === "head" ? "the laboratory" : "what it is of"}
          onchange={(e) => set({ text: text(e) || undefined })}
        />{/if}</label
    >
    {#if block.kind === "text"}
      <label class="row"
        ><span>Put in</span><select
          class="field"
          aria-label="Value to put in"
          title="Puts a value in where the cursor is"
          onchange={(e) => {
            if (e.currentTarget.value) put(e.currentTarget.value);
            e.currentTarget.value = "";
          }}
        >
          <option value="">a value …</option>
          {#each ["subject", "study", "method", "analyst", "laboratory", "made_at"] as id (id)}<option value={id}>{id}</option>{/each}
          {#each quantities.data ?? [] as q (q.id)}<option
              value={["compound", "peak", "sample"].includes(q.lives) ? `${q.id} of ${compounds[0] ?? ""}` : q.id}>{q.words}</option
            >{/each}
        </select></label
      >
    {/if}
  {/if}
  {#if has("sub")}<label class="row"
      ><span>{block.kind === "heading" ? "Beneath" : "Right"}</span><input
        class="field"
        value={block.sub ?? ""}
        placeholder="its own"
        onchange={(e) => set({ sub: text(e) || undefined })}
      /></label
    >{/if}
  {#if has("title")}<label class="row"
      ><span>Title</span><input
        class="field"
        value={block.title ?? ""}
        placeholder="its own"
        onchange={(e) => set({ title: text(e) || undefined })}
      /></label
    >
    <label class="chk"
      ><input
        type="checkbox"
        title="Nothing stands over it"
        checked={block.title === ""}
        onchange={(e) => set({ title: e.currentTarget.checked ? "" : undefined })}
      />no title</label
    >{/if}
  {#if has("size")}<label class="row"
      ><span>Letters, pt</span><input
        class="field num"
        inputmode="decimal"
        value={block.size_pt ?? ""}
        placeholder="its own"
        onchange={(e) => set({ size_pt: number(e) })}
      /></label
    >{/if}
  {#if has("height")}<label class="row"
      ><span>Height, mm</span><input
        class="field num"
        inputmode="decimal"
        value={block.height_mm ?? ""}
        placeholder="its own"
        onchange={(e) => set({ height_mm: number(e) })}
      /></label
    >{/if}
  {#if has("align")}<div class="row">
      <span>Stands</span><Choice
        label="Stands"
        options={[
          ["left", "left"],
          ["middle", "middle"],
          ["right", "right"],
        ]}
        value={block.align || "left"}
        choose={(v) => set({ align: v === "left" ? undefined : v })}
      />
    </div>{/if}
  {#if has("channel") && channels.length}<label class="row"
      ><span>Signal</span><select
        class="field"
        title="Whose trace"
        value={block.channel ?? ""}
        onchange={(e) => set({ channel: text(e) || undefined })}
      >
        <option value="">the first</option>
        {#each channels as c (c)}<option value={c}>{c}</option>{/each}
      </select></label
    >{/if}
  {#if has("stretch")}<div class="row">
      <span>Shows</span><Choice
        label="Stretch"
        options={[
          ["peaks", "where peaks are"],
          ["whole", "the run"],
        ]}
        value={block.whole ? "whole" : "peaks"}
        choose={(v) => set({ whole: v === "whole" ? true : undefined })}
      />
    </div>
    <div class="row">
      <span>From, to, min</span><span class="two"
        ><input
          class="field num"
          inputmode="decimal"
          aria-label="From, min"
          value={block.from_min ?? ""}
          onchange={(e) => set({ from_min: number(e) })}
        /><input
          class="field num"
          inputmode="decimal"
          aria-label="To, min"
          value={block.to_min ?? ""}
          onchange={(e) => set({ to_min: number(e) })}
        /></span
      >
    </div>{/if}
  {#if has("labels")}<ListOf
      label="At apexes"
      all={["name", "time", "area", "amount"]}
      chosen={block.labels ?? ["name", "time"]}
      choose={(labels) => set({ labels: labels.length ? labels : [] })}
    />{/if}
  {#if has("angle")}<label class="row"
      ><span>Angle, degrees</span><input
        type="range"
        min="0"
        max="90"
        step="5"
        title="At which labels stand"
        value={block.angle_deg ?? 70}
        onchange={(e) => set({ angle_deg: number(e) })}
      /></label
    >{/if}
  {#if has("named")}<label class="chk"
      ><input
        type="checkbox"
        title="Only peaks with a name"
        checked={block.named ?? false}
        onchange={(e) => set({ named: e.currentTarget.checked || undefined })}
      />only peaks with a name</label
    >{/if}
  {#if has("sum")}<label class="chk"
      ><input
        type="checkbox"
        title="A last row with the sum"
        checked={block.sum ?? false}
        onchange={(e) => set({ sum: e.currentTarget.checked || undefined })}
      />a last row with the sum</label
    >{/if}
  {#if has("plain")}<label class="chk"
      ><input
        type="checkbox"
        title="Without baselines and areas"
        checked={block.plain ?? false}
        onchange={(e) => set({ plain: e.currentTarget.checked || undefined })}
      />without baselines and areas</label
    >{/if}
  {#if has("conditions") && conditions.length}<ListOf
      label="Beneath it"
      all={conditions}
      chosen={block.conditions?.includes("*") ? conditions : (block.conditions ?? [])}
      choose={(list) => set({ conditions: list.length === conditions.length ? ["*"] : list.length ? list : undefined })}
    />{/if}
  {#if has("behind")}<div class="row">
      <span>Behind it</span><Choice
        label="Behind it"
        options={[
          ["none", "nothing"],
          ["replicates", "replicates"],
          ["blank", "blank"],
        ]}
        value={block.behind || "none"}
        choose={(v) => set({ behind: v === "none" ? undefined : v })}
      />
    </div>{/if}
  {#if has("of")}<div class="row">
      <span>Of</span><Choice
        label="Of"
        options={[
          ["file", "the file"],
          ["processing", "the processing"],
        ]}
        value={block.of === "processing" ? "processing" : "file"}
        choose={(v) => set({ of: v === "processing" ? v : undefined })}
      />
    </div>{/if}
  {#if has("compounds")}<ListOf
      label="Compounds"
      all={across}
      words={Object.fromEntries(across.map((id) => [id, acrossWords(id)]))}
      chosen={block.compounds ?? compounds}
      choose={(list) => set({ compounds: list.join("|") === compounds.join("|") || list.length === 0 ? undefined : list })}
    />{/if}
  {#if has("measures")}<ListOf
      label="Measures"
      all={numbers.map((q) => q.id)}
      words={Object.fromEntries(numbers.map((q) => [q.id, q.unit ? `${q.words}, ${q.unit}` : q.words]))}
      chosen={block.measures ?? ["retention_min", "area_s"]}
      choose={(measures) => set({ measures: measures.length ? measures : undefined })}
    />{/if}
  {#if has("by")}<label class="row"
      ><span>Groups</span><select
        class="field"
        title="How injections are grouped"
        value={block.by ?? "replicates"}
        onchange={(e) => set({ by: text(e) })}
      >
        {#each ["replicates", "level", "role", "none"] as by (by)}<option value={by}>{by}</option>{/each}
      </select></label
    >{/if}
  {#if has("statistics")}<ListOf
      label="Statistics"
      all={statistics}
      chosen={block.statistics ?? ["mean", "rsd"]}
      choose={(list) => set({ statistics: list.length ? statistics.filter((s) => list.includes(s)) : undefined })}
    />{/if}
  {#if has("roles")}<label class="row tall"
      ><span>Under the lines</span><textarea
        class="field"
        rows="3"
        title="One line each"
        placeholder="Analysed by …&#10;Reviewed by"
        value={(block.roles ?? []).join("\n")}
        onchange={(e) =>
          set({
            roles: text(e)
              .split("\n")
              .map((r) => r.trim())
              .filter(Boolean)
              .slice(0, 6),
          })}></textarea></label
    >{/if}
  {#if has("picture")}<label class="row"
      ><span>PNG</span><input type="file" accept="image/png" title="The picture" onchange={(e) => void picture(e)} /></label
    >{/if}
  {#if has("missing")}<label class="row"
      ><span>Where missing</span><input
        class="field"
        value={block.missing ?? ""}
        placeholder="–"
        onchange={(e) => set({ missing: text(e) || undefined })}
      /></label
    >{/if}
</section>
{#if has("values")}<Values {block} quantities={quantities.data ?? []} {compounds} />{/if}
{#if lacks.length}
  <section aria-label="Missing">
    <h2>Missing here <span class="r">goes into the run list</span></h2>
    {#each lacks as m (m.quantity)}
      <label class="row"
        ><span>{m.words}</span><input
          class="field"
          title="Typed here it stands in the run list"
          onchange={(e) => void type(m.injection_id ?? "", m.quantity, text(e))}
        /></label
      >
    {/each}
  </section>
{/if}

<style>
  .row {
    display: grid;
    grid-template-columns: 104px minmax(0, 1fr);
    align-items: baseline;
    gap: 8px;
    font-size: 12.5px;
    margin: 5px 0;
  }
  .row > span:first-child {
    color: var(--ink-2);
  }
  .tall {
    align-items: start;
  }
  textarea {
    resize: vertical;
    line-height: 1.45;
    height: auto;
  }
  .two {
    display: grid;
    grid-template-columns: 1fr 1fr;
    gap: 10px;
  }
  .chk {
    display: flex;
    margin: 4px 0 4px 112px;
    font-size: 12.5px;
  }
  input[type="file"] {
    font-size: 11.5px;
    width: 100%;
  }
</style>
