/** The picture is never lower than this, in pixels; in a low window, or beside its values, than the other. */
const LEAST_PLOT = 240
const LEAST_PLOT_LOW = 180
export const LEAST_PLOT_BESIDE = 120
const LOW_WINDOW = 760
/** Chain, tools and ruler over the picture. */
export const AROUND = { chain: 37, tools: 31, ruler: 34, tabs: 29 }
/** Values below the picture have at least this, and scroll where that is not enough. */
export const LEAST_VALUES = 76

/** The height of a sheet at the least, with what stands around and below its picture. */
export function leastSheetHeight(ruler: boolean, windowHeight: number): number {
  return (
    leastPlot(windowHeight) +
    AROUND.chain +
    AROUND.tools +
    (ruler ? AROUND.ruler : 0) +
    LEAST_VALUES
  )
}

/** The height of the picture at the least, in a window of this height. */
export function leastPlot(windowHeight: number): number {
  return windowHeight < LOW_WINDOW ? LEAST_PLOT_LOW : LEAST_PLOT
}

/** Values that have so much room stand below a reading; with less they take turns. */
export const COMFORTABLE_VALUES = 130
