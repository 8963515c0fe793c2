// Sends an impulse through our worker's equaliser, with the plain formula, and asks the browser's own biquad filter for
// its response; calls back with the largest difference by type, dB. Gain and Q of the node are as the W3C Web Audio API
// says: the Q of cuts is in dB, shelves have the slope of a Q of 0.7071.
const done = arguments[0];
const file = part => performance.getEntriesByType('resource').map(e => e.name).find(n => n.includes(part));
(async () => {
    const worker = new Worker(file('worker-'), { type: 'module' });
    worker.postMessage({ kind: 'module', bytes: await (await fetch(file('.wasm'))).arrayBuffer() });
    let id = 0;
    const through = stages => new Promise((resolve, reject) => {
        worker.onmessage = ({ data }) => data.kind === 'samples' ? resolve(data.channels[0]) : reject(JSON.stringify(data));
        worker.postMessage({ kind: 'samples', id: ++id, source: { kind: 'impulse', params: {} }, path: { stages } });
    });
    const rate = 48000, freqs = Float32Array.from({ length: 60 }, (_, i) => 40 * 500 ** (i / 59));
    const size = (x, hz) => {
        let re = 0, im = 0;
        const turn = 2 * Math.PI * hz / rate;
        for (let n = 0; n < x.length; n++) { re += x[n] * Math.cos(turn * n); im -= x[n] * Math.sin(turn * n); }
        return Math.hypot(re, im);
    };
    const plain = await through([]);
    const butterworth = 20 * Math.log10(Math.SQRT1_2);
    const types = [
        ['peaking', 6, 1500, 8, 3, 3], ['peaking', 6, 9000, -10, 0.7, 0.7], ['notch', 5, 2000, 0, 4, 4], ['bandpass', 4, 800, 0, 2, 2],
        ['lowshelf', 8, 200, 7, Math.SQRT1_2, 1], ['highshelf', 9, 5000, -9, Math.SQRT1_2, 1],
        ['highpass', 1, 300, 0, 1, butterworth], ['lowpass', 2, 6000, 0, 1, butterworth], ['allpass', 3, 1000, 0, 2, 2],
    ];
    const differences = {};
    for (const [type, kind_1, freq_1_hz, gain_1_db, q_1, Q] of types) {
        const params = { formula: 1, kind_1, freq_1_hz, gain_1_db, q_1 };
        const ours = await through([{ effect: 'equaliser', params }]);
        const node = new BiquadFilterNode(new OfflineAudioContext(1, 128, rate), { type, frequency: freq_1_hz, gain: gain_1_db, Q });
        const magnitudes = new Float32Array(freqs.length);
        node.getFrequencyResponse(freqs, magnitudes, new Float32Array(freqs.length));
        const apart = freqs.map((hz, i) => magnitudes[i] < 1e-3 ? 0 : Math.abs(20 * Math.log10(size(ours, hz) / size(plain, hz) / magnitudes[i])));
        differences[`${type} at ${freq_1_hz} Hz`] = Math.max(...apart);
    }
    done(differences);
})().catch(e => done(String(e)));
