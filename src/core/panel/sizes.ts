/** Sizes of panels, by their numbers, and what a finger needs there. */
export interface PanelSize {
  readonly width: number;
  readonly height: number;
  /** Of the glass, in inches. */
  readonly diagonal: number;
}

/** Sizes that glass is made in (common practice); each is met upright too. */
export const PANEL_SIZES: readonly PanelSize[] = [
  { width: 320, height: 240, diagonal: 3.5 },
  { width: 480, height: 272, diagonal: 4.3 },
  { width: 640, height: 480, diagonal: 5.7 },
  { width: 800, height: 480, diagonal: 7 },
  { width: 800, height: 600, diagonal: 10.4 },
  { width: 1024, height: 600, diagonal: 10.1 },
  { width: 1024, height: 768, diagonal: 12.1 },
  { width: 1280, height: 800, diagonal: 10.1 },
  { width: 1280, height: 1024, diagonal: 19 },
  { width: 1366, height: 768, diagonal: 15.6 },
  { width: 1920, height: 1080, diagonal: 21.5 },
];

export const LEAST_PX = 160;
export const MOST_PX = 4000;
/** Under the bar with the name of the page begins the page itself. */
export const BAR_PX = 40;

const MM_PER_INCH = 25.4;
/** A finger wants about as much (common practice). */
export const FINGER_MM = 9;

/** How many pixels of the panel are a millimetre of its glass. */
export function pixelsPerMm({ width, height, diagonal }: PanelSize): number {
  return Math.hypot(width, height) / (diagonal * MM_PER_INCH);
}

/** The height that is left for a page. */
export function pageHeight({ height, hasBar }: { readonly height: number; readonly hasBar: boolean }): number {
  return height - (hasBar ? BAR_PX : 0);
}

/** Beyond this nothing stands on a page. */
export const FARTHEST_PX = 8000;
