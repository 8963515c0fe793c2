/** The frequencies at which curves and spectra are drawn: the same for all pictures over frequency. */
export const LOWEST_HZ = 20;
export const HIGHEST_HZ = 20_000;
/** Points of a curve, at equal ratios, ends included. */
export const CURVE_POINTS = 481;
/** Times and frequencies of a spectrogram. */
export const SPECTROGRAM_COLUMNS = 220;
export const SPECTROGRAM_ROWS = 140;
/** Columns of a spectrum. */
export const SPECTRUM_COLUMNS = 480;
