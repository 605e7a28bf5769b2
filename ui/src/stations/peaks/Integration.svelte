<script lang="ts">
  // The settings of integration: four that matter most on rulers, the others folded away.
  import type { Expected, Settings } from "../../api/client";
  import { count, significant } from "../../look/number";
  import Choice from "../../parts/Choice.svelte";
  import Ruler from "../../parts/Ruler.svelte";
  import Estimates from "./Estimates.svelte";

  let {
    settings,
    saved,
    usedWidth,
    expected,
    unit,
    injections,
    trouble,
    tune,
    examples,
  }: {
    settings: Settings;
    saved: Settings;
    /** The width in use where the settings leave it to the trace, min. */
    usedWidth: number;
    /** What the batch's traces say of width and noise. */
    expected: Expected | undefined;
    unit: string;
    injections: number;
    trouble: string;
    tune: (change: Partial<Settings>) => void;
    /** Opens the panel of examples. */
    examples: () => void;
  } = $props();

  let more = $state(false);
  const number = (text: string) => {
    const v = Number(text.replace(",", "."));
    return Number.isFinite(v) && v >= 0 ? v : 0;
  };
  const fields: [key: keyof Settings & string, word: string, unit: () => string, hint: string][] = [
    ["end_width_min", "Width at the end of the run", () => "min", "as at the start"],
    ["least_height", "Least height", () => unit, "none"],
    ["smooth_min", "Smooth over", () => "min", "raw signal"],
    ["skim_valley_percent", "Skim where the valley is above", () => "%", "10"],
    ["background_widths", "Background bends over", () => "widths", "20"],
    ["hold_up_min", "Hold-up time", () => "min", "not known"],
    ["noise_widths", "Noise over", () => "widths", "5"],
    ["certainty", "Least area in uncertainties", () => "×", "3"],
  ];
</script>

<section aria-label="Integration">
  <h2>Integration <span class="r">whole batch, {count(injections, "injection")}</span></h2>
  <Ruler
    label="Peak width"
    unit="min"
    value={settings.width_min || usedWidth}
    saved={usedWidth}
    low={0.01}
    high={2}
    logarithmic
    format={(v) => significant(v, 3)}
    change={(v) => tune({ width_min: Number(v.toPrecision(3)) })}
  />
  <Estimates {settings} {expected} {unit} {tune} />
  <Ruler
    label="Noise threshold"
    unit="× noise"
    value={settings.threshold || 5}
    saved={saved.threshold || 5}
    low={2}
    high={200}
    logarithmic
    format={(v) => significant(v, 3)}
    change={(v) => tune({ threshold: Number(v.toPrecision(3)) })}
  />
  <Ruler
    label="Least area"
    unit="{unit}·s"
    value={settings.least_area}
    saved={saved.least_area}
    low={0}
    high={50}
    format={(v) => significant(v, 3)}
    change={(v) => tune({ least_area: Number(v.toPrecision(3)) })}
  />
  <Ruler
    label="Skim tails smaller than"
    unit="%"
    value={settings.skim_percent ?? 0}
    saved={saved.skim_percent ?? 0}
    low={0}
    high={50}
    format={(v) => (v === 0 ? "off" : significant(v, 2))}
    change={(v) => tune({ skim_percent: Number(v.toPrecision(2)) })}
  />
  <p class="turn">
    <button
      class="lnk"
      aria-expanded={more}
      title={more ? "Hides the seldom used settings" : "Baseline, shoulders, grouping and others"}
      onclick={() => (more = !more)}>{more ? "Fewer settings" : "More settings"}</button
    >
    <button class="lnk" onclick={examples} title="Finds settings from peaks that you point at">Suggest from examples</button>
  </p>
  {#if more}
    <div class="pick">
      <span>Part peaks by</span><Choice
        label="Part peaks by"
        options={[
          ["drop", "drop"],
          ["valley", "valley"],
          ["fit", "fit"],
        ]}
        value={settings.split || "drop"}
        choose={(split) => tune({ split })}
      />
    </div>
    <div class="pick">
      <span>Skim on</span><Choice
        label="Skim on"
        options={[
          ["tangent", "tangent"],
          ["exponential", "decay"],
        ]}
        value={settings.skim_line || "tangent"}
        choose={(skim_line) => tune({ skim_line })}
      />
    </div>
    <div class="pick">
      <span>Baseline</span><Choice
        label="Baseline"
        options={[
          ["followed", "followed"],
          ["chord", "straight"],
          ["background", "modelled"],
        ]}
        value={settings.baseline || "followed"}
        choose={(baseline) => tune({ baseline })}
      />
    </div>
    <div class="pick">
      <span>Feet stand</span><Choice
        label="Feet stand"
        options={[
          ["outward", "past the tail"],
          ["flank", "on the flank"],
        ]}
        value={settings.feet || "outward"}
        choose={(feet) => tune({ feet })}
      />
    </div>
    {#each fields as [key, word, of, hint] (key)}
      <label class="pick" title="{word}; {hint} where nothing is typed"
        ><span>{word}, {of()}</span><input
          class="field"
          value={(settings[key] as number | undefined) || ""}
          placeholder={hint}
          onchange={(e) => tune({ [key]: number(e.currentTarget.value) })}
        /></label
      >
    {/each}
  {/if}
  {#if trouble}<p class="note att" role="alert">{trouble}</p>{/if}
</section>

<style>
  .turn {
    display: flex;
    justify-content: space-between;
    font-size: 12.5px;
    padding-top: 3px;
  }
  .pick {
    display: flex;
    justify-content: space-between;
    align-items: baseline;
    min-height: 26px;
    font-size: 12.5px;
  }
  .pick .field {
    width: 92px;
    text-align: right;
    font-size: 12.5px;
  }
</style>
