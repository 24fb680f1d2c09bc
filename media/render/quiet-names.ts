/** RNNoise works at 48 kHz, in frames of 10 ms. */
export const NOISE_RATE = 48_000
/** Samples by which its output lags its input, as measured: its windows overlap by one frame and it looks one ahead. */
export const NOISE_DELAY = 960
