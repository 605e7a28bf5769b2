<script lang="ts">
  // The laboratory's own quantities: a list with the value of each here, and the one that is written, with its values over the batch as it is typed.
  import type { Batch } from "../../api/client";
  import { answer, api } from "../../api/client";
  import Choice from "../../parts/Choice.svelte";
  import Mark from "../../parts/Mark.svelte";
  import { keys } from "../../state/keys.svelte";
  import FieldValues from "./FieldValues.svelte";
  import { fields } from "./fields.svelte";

  let { batch, index, compound }: { batch: Batch; index: number; compound: string } = $props();
  $effect(() => fields.follow(batch, batch.injections[index]?.id ?? "", compound));
  const lives: [string, string][] = [
    ["batch", "batch"],
    ["injection", "injection"],
    ["trace", "trace"],
    ["peak", "peak"],
    ["compound", "compound"],
    ["sample", "sample"],
  ];
  const liveWords = $derived<Record<string, string>>({
    batch: "once",
    injection: `each of ${batch.injections.length}`,
    trace: "each",
    peak: "each",
    compound: "each, in each injection",
    sample: "each, over its injections",
  });
  const groups = $derived(
    lives
      .map(([l, word]) => ({ l, word, list: fields.fields.map((f, k) => ({ f, k })).filter(({ f }) => f.lives === l) }))
      .filter((g) => g.list.length > 0),
  );
  const field = $derived(fields.field);
  const problem = $derived(fields.state?.problem ?? null);
  let area = $state<HTMLTextAreaElement>();
  let chosen = $state(0);
  let typing = $state(false);
  let wanted = $state(false); // by Ctrl Space, also where nothing is written yet
  const words = $derived.by(() => {
    const list = fields.trial?.words ?? [];
    const at = fields.cursor;
    const before = part(at - 1, at);
    return typing && list.length && (wanted || list[0]!.from < at || before === "." || before === '"') ? list.slice(0, 7) : [];
  });
  $effect(() => {
    void words;
    chosen = 0;
  });
  const letters = $derived([...(field?.formula ?? "")]);
  const part = (from: number, to: number) => letters.slice(from, to).join("");

  function moved() {
    fields.cursor = area ? [...area.value.slice(0, area.selectionStart)].length : -1;
    fields.soon();
  }
  function put(insert: string, from: number, to: number) {
    const text = part(0, from) + insert + part(to, letters.length);
    fields.change({ formula: text });
    const at = (part(0, from) + insert).length;
    queueMicrotask(() => {
      area?.focus();
      area?.setSelectionRange(at, at);
      moved();
    });
  }
  function pressed(e: KeyboardEvent) {
    if (words.length && (e.key === "ArrowDown" || e.key === "ArrowUp")) {
      e.preventDefault();
      chosen = (chosen + (e.key === "ArrowDown" ? 1 : words.length - 1)) % words.length;
    } else if (words.length && e.key === "Tab" && !e.shiftKey) {
      e.preventDefault();
      const w = words[chosen]!;
      put(w.insert, w.from, fields.cursor);
    } else if (e.key === "Escape" && words.length) {
      e.preventDefault();
      e.stopPropagation();
      typing = false;
    } else if (e.key === " " && e.ctrlKey) {
      e.preventDefault();
      typing = wanted = true;
      moved();
    } else if (e.key === "Enter" && (e.ctrlKey || e.metaKey)) {
      e.preventDefault();
      void fields.keep(batch);
    }
  }
  const unit = $derived(field?.unit || fields.state?.unit || "");
  async function examples() {
    const list = await answer(api.GET("/api/batches/{batch}/fields/examples", { params: { path: { batch: batch.id } } })).catch(
      () => undefined,
    );
    if (list) fields.bring(list);
  }
  const tail = " "; // so that a last line has its height
  const number = (e: Event) => {
    const text = (e.currentTarget as HTMLInputElement).value.trim().replace(",", ".");
    return text === "" || Number.isNaN(Number(text)) ? undefined : Number(text);
  };
  $effect(() =>
    keys({
      a: () => {
        fields.add();
        setTimeout(() => area?.focus(), 30);
      },
      "]": () => ((fields.at = Math.min(fields.fields.length - 1, fields.at + 1)), fields.soon(0)),
      "[": () => ((fields.at = Math.max(0, fields.at - 1)), fields.soon(0)),
      Delete: () => field && fields.remove(),
      Enter: () => void fields.keep(batch),
      Escape: () => fields.discard(),
      "mod+s": () => void fields.keep(batch),
      ...(fields.canUndo ? { "mod+z": () => fields.undo() } : {}),
    }),
  );
</script>

<div class="two">
  <div class="list" role="region" aria-label="Fields">
    <h2>
      Fields <span class="r"
        ><button
          class="lnk"
          title="Begins a new field (A)"
          onclick={() => {
            fields.add();
            setTimeout(() => area?.focus(), 30);
          }}>New field <kbd>A</kbd></button
        ></span
      >
    </h2>
    {#each groups as g (g.l)}
      <h3>{g.word}<span class="r">{liveWords[g.l]}</span></h3>
      {#each g.list as { f, k } (k)}
        {@const s = fields.trial?.fields[k]}
        <button
          class="one"
          class:on={k === fields.at}
          title={f.formula}
          onclick={() => ((fields.at = k), (fields.cursor = -1), fields.soon(0))}
          ><span>{f.name}</span><b class:att={!!s?.problem}>{s?.problem ? "?" : s?.here || "–"}</b></button
        >
      {/each}
    {:else}<p class="note">
        No fields yet. A quantity that nobody else has is written here, and works like any other: in tables, reports, checks. <button
          class="lnk"
          title="Brings ten in to begin with"
          onclick={() => void examples()}>Begin with ten examples</button
        >.
      </p>{/each}
  </div>
  {#if field}
    <div class="edit">
      <div class="name">
        <input
          class="field big"
          aria-label="Name of the field"
          title="For people"
          value={field.name}
          onchange={(e) => fields.change({ name: e.currentTarget.value.trim() || field.name })}
        />
        <label class="note"
          >called <input
            class="field short"
            aria-label="Short name"
            title="In formulas; renaming follows"
            value={field.short}
            onchange={(e) => void fields.rename(e.currentTarget.value.trim())}
          /></label
        >
        <Choice label="Lives with" options={lives} value={field.lives} choose={(l) => fields.change({ lives: l })} />
      </div>
      <div class="formula">
        <pre aria-hidden="true">{part(0, problem?.from ?? letters.length)}{#if problem}<u>{part(problem.from, problem.to) || " "}</u>{part(
              problem.to,
              letters.length,
            )}{/if}{tail}</pre>
        <textarea
          bind:this={area}
          aria-label="Formula"
          title="In the syntax of expr-lang; Ctrl Space offers what can stand here"
          spellcheck="false"
          autocomplete="off"
          value={field.formula}
          oninput={(e) => {
            typing = true;
            wanted = false;
            fields.cursor = [...e.currentTarget.value.slice(0, e.currentTarget.selectionStart)].length;
            fields.change({ formula: e.currentTarget.value });
          }}
          onkeydown={pressed}
          onclick={() => (typing = false)}
          onblur={() => (typing = false)}></textarea>
        {#if words.length}
          <div class="words" role="listbox" aria-label="What can stand here">
            {#each words as w, k (w.insert)}
              <button
                role="option"
                aria-selected={k === chosen}
                class:on={k === chosen}
                tabindex="-1"
                title="Puts it in (Tab)"
                onmousedown={(e) => {
                  e.preventDefault();
                  put(w.insert, w.from, fields.cursor);
                }}><code>{w.insert}</code><span class="num">{w.here}</span><span class="mut">{w.words}</span></button
              >
            {/each}
            <p class="mut">values are those here <span>Tab takes it</span></p>
          </div>
        {/if}
      </div>
      <p class="read" role="status">
        {#if problem}<span class="att"><Mark name="look" /> {problem.says}</span>{#if problem.instead}
            <button
              class="lnk"
              title="Puts {problem.instead} there"
              onclick={() =>
                put(part(problem.from, problem.to).startsWith('"') ? `"${problem.instead}"` : problem.instead!, problem.from, problem.to)}
              >use {problem.instead}</button
            >{/if}
        {:else if fields.state}<span class="good">✓</span>
          {fields.state.kind === "text"
            ? "a text, or pass and fail"
            : fields.state.unit
              ? `in ${fields.state.unit}`
              : "a number without a unit"}, shown in
          <input
            class="field unit"
            aria-label="Unit"
            title="Absent is that which the formula gives"
            placeholder={fields.state.unit || "no unit"}
            value={field.unit ?? ""}
            onchange={(e) => fields.change({ unit: e.currentTarget.value.trim() || undefined })}
          />
          with
          <input
            class="field unit num"
            aria-label="Decimals"
            inputmode="numeric"
            title="Absent as its uncertainty or kind asks"
            placeholder="its own"
            value={field.decimals ?? ""}
            onchange={(e) => fields.change({ decimals: number(e) })}
          /> decimals{/if}
      </p>
      <p class="read">
        <b>Passes</b> from
        <input
          class="field unit num"
          aria-label="Lower limit"
          inputmode="decimal"
          title="Below it is a check that fails"
          value={field.low ?? ""}
          onchange={(e) => fields.change({ low: number(e) })}
        />
        to
        <input
          class="field unit num"
          aria-label="Upper limit"
          inputmode="decimal"
          title="Above it is a check that fails"
          value={field.high ?? ""}
          onchange={(e) => fields.change({ high: number(e) })}
        />
        {unit}
      </p>
      {#if fields.trouble}<p class="att" role="alert">
          {fields.trouble} <button class="lnk" title="Closes this" onclick={() => (fields.trouble = "")}>close</button>
        </p>{/if}
      <FieldValues {batch} {field} stale={!!problem} />
    </div>
  {:else}<div class="empty">Choose a field, or begin one.</div>{/if}
</div>

<style>
  .two {
    display: flex;
    flex: 1;
    min-height: 0;
  }
  .list {
    width: 228px;
    flex: none;
    overflow: auto;
    padding: 6px 12px 12px 16px;
    border-right: 1px solid var(--mist-1);
  }
  h2 {
    display: flex;
    gap: 10px;
    align-items: baseline;
  }
  h2 .r {
    margin-left: auto;
    font-size: 12.5px;
  }
  .one b {
    white-space: nowrap;
  }
  h3 {
    text-transform: capitalize;
    display: flex;
    justify-content: space-between;
    font-size: 14px;
    margin: 12px 0 2px;
    border-bottom: 1px solid var(--mist-2);
  }
  h3 .r {
    text-transform: none;
    font-size: 12px;
    color: var(--ink-3);
  }
  .one {
    display: flex;
    justify-content: space-between;
    gap: 8px;
    width: 100%;
    padding: 2px 0 2px 10px;
    text-align: left;
    font-size: 12.5px;
    border-bottom: 1px solid var(--mist-1);
  }
  .one.on {
    background: var(--row-kaki);
    box-shadow: inset 3px 0 0 var(--kaki);
  }
  .edit {
    flex: 1;
    min-width: 0;
    overflow: auto;
    padding: 6px 16px 14px;
  }
  .name {
    display: flex;
    gap: 14px;
    align-items: baseline;
  }
  .big {
    font-family: var(--f-read);
    font-size: 18px;
    flex: 1;
    min-width: 0;
  }
  .short {
    width: 130px;
  }
  .formula {
    position: relative;
    margin: 8px 0 4px;
  }
  pre,
  textarea {
    font: inherit;
    font-size: 14px;
    line-height: 22px;
    letter-spacing: 0;
    padding: 8px 12px;
    margin: 0;
    white-space: pre-wrap;
    overflow-wrap: anywhere;
    min-height: 62px;
    width: 100%;
    box-sizing: border-box;
  }
  pre {
    color: transparent;
    background: var(--sheet, #fffefb);
    border-bottom: 1px solid var(--ink-2);
  }
  textarea {
    position: absolute;
    inset: 0;
    background: none;
    color: var(--ink);
    border: none;
    resize: none;
    overflow: hidden;
  }
  :global(html[data-light="night"]) pre {
    background: var(--paper-2);
  }
  u {
    text-decoration: underline wavy var(--kaki);
    text-underline-offset: 4px;
  }
  .words {
    position: absolute;
    z-index: 3;
    left: 12px;
    right: 12px;
    top: 100%;
    background: var(--paper-1, var(--paper));
    border: 1px solid var(--ink-3);
    font-size: 12.5px;
  }
  .words button {
    display: grid;
    grid-template-columns: minmax(120px, 1.2fr) 110px 2fr;
    gap: 12px;
    width: 100%;
    padding: 2px 10px;
    text-align: left;
  }
  .words button > * {
    overflow: hidden;
    white-space: nowrap;
    text-overflow: ellipsis;
  }
  .words code {
    font: inherit;
    color: var(--ai);
  }
  .words .on {
    background: var(--paper-3);
  }
  .words p {
    display: flex;
    justify-content: space-between;
    padding: 2px 10px;
    border-top: 1px solid var(--mist-2);
  }
  .read {
    font-size: 12.5px;
    margin: 5px 0;
  }
  .unit {
    width: 62px;
  }
  .good {
    color: var(--moss);
  }
</style>
