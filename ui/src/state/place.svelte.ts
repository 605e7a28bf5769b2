// The address bar names the place: which batch, which station, which injection and compound, which stretch of the run.
import { pages, type Page } from "./pages";

export const stations = ["batch", "traces", "peaks", "spectra", "compounds", "curves", "results", "review", "report"] as const;
export type Station = (typeof stations)[number];

/** The stations of a batch: that of spectra is there where its files hold some. */
export const stationsOf = (batch: { injections: Holding[] } | undefined): Station[] =>
  stations.filter((s) => s !== "spectra" || (batch?.injections.some((i) => holds(i, "mass") || holds(i, "wavelength")) ?? false));
type Holding = { header: { spectra?: string[] | null }; more?: { header: { spectra?: string[] | null } }[] | null };
export const holds = (i: Holding, kind: "mass" | "wavelength"): boolean =>
  [i, ...(i.more ?? [])].some((f) => f.header.spectra?.includes(kind) ?? false);

type Query = {
  i?: string;
  c?: string;
  from?: string;
  to?: string;
  show?: string;
  mode?: string;
  face?: string;
  channel?: string;
  /** The moment that a notice is about, min. */
  at?: string;
  less?: string;
  lined?: string;
  heights?: string;
  scale?: string;
  /** A view of the study, on a report. */
  view?: string;
  /** What processing once more found, by its job. */
  job?: string;
  /** The layout that is open, on a report. */
  layout?: string;
};

class Place {
  /** A page of the installation, besides the shelf. */
  page = $state<Page>("");
  batch = $state("");
  station = $state<Station>("batch");
  query = $state<Query>({});

  constructor() {
    this.read();
    addEventListener("popstate", () => this.read());
  }

  private read() {
    const [batch = "", station = ""] = location.pathname.split("/").slice(1);
    this.page = (pages as readonly string[]).includes(batch) ? (batch as Page) : "";
    this.batch = this.page ? "" : batch;
    this.station = (stations as readonly string[]).includes(station) ? (station as Station) : "batch";
    this.query = Object.fromEntries(new URLSearchParams(location.search));
  }

  /** Goes to the shelf, or to a page beside it. */
  home(page: Page = "") {
    history.pushState(null, "", `/${page}`);
    this.read();
  }

  /** Goes elsewhere. A step that back should return to is pushed; walking and zooming only replace. */
  go(to: { batch?: string; station?: Station; query?: Query }, push = true) {
    const batch = to.batch ?? this.batch;
    const station = to.station ?? this.station;
    const query: Query = { ...this.query, ...to.query };
    const entries = Object.entries(query).filter(([, v]) => v !== undefined && v !== "");
    const search = new URLSearchParams(entries as [string, string][]).toString();
    const address = batch ? `/${batch}/${station}${search ? `?${search}` : ""}` : "/";
    if (address === location.pathname + location.search) return;
    history[push ? "pushState" : "replaceState"](null, "", address);
    this.read();
  }
}

export const place = new Place();
