// Renders 30 s offline through our worker, through our worklet and through the browser's own compressor node;
// calls back with how many times faster than real time each was, the best of five.
const done = arguments[0];
const file = part => performance.getEntriesByType('resource').map(e => e.name).find(n => n.includes(part));
(async () => {
    const module = await (await fetch(file('.wasm'))).arrayBuffer();
    const rate = 48000, seconds = 30;
    const noise = new AudioBuffer({ numberOfChannels: 2, length: rate * seconds, sampleRate: rate });
    for (const c of [0, 1]) { const x = noise.getChannelData(c); for (let i = 0; i < x.length; i++) x[i] = Math.random() - 0.5; }
    const channels = [noise.getChannelData(0).slice(), noise.getChannelData(1).slice()];
    const path = stages => new TextEncoder().encode(JSON.stringify({ stages }));
    // The page does not list what a worklet has loaded; its main script names the file.
    const live = (await (await fetch(file('/assets/index-') )).text()).match(/\/assets\/live-[\w-]+\.js/)[0];
    const worklet = stages => async context => {
        await context.audioWorklet.addModule(live);
        const room = { kind: 'room', frames: channels[0].length, channels: 2 };
        const pieces = channels.map((samples, channel) => ({ kind: 'piece', channel, samples }));
        const first = [room, ...pieces, { kind: 'source' }, { kind: 'lane', runs: { shared: false, number: 0 }, json: path(stages) }, { kind: 'play', playing: true }];
        new AudioWorkletNode(context, 'clear-bend-live', { numberOfInputs: 0, outputChannelCount: [2], processorOptions: { module, first } }).connect(context.destination);
    };
    const native = async context => {
        const source = new AudioBufferSourceNode(context, { buffer: noise });
        source.connect(new DynamicsCompressorNode(context)).connect(context.destination);
        source.start();
    };
    // One effect alone, in the measuring worker: 30 s of noise are made, processed and handed over.
    const worker = new Worker(file('worker-'), { type: 'module' });
    worker.postMessage({ kind: 'module', bytes: module });
    const inWorker = async stages => {
        let best = Infinity;
        for (let i = 0; i < 5; i++) {
            const start = performance.now();
            const answer = await new Promise(resolve => {
                worker.onmessage = ({ data }) => resolve(data);
                worker.postMessage({ kind: 'samples', id: i, source: { kind: 'white-noise', params: { seconds } }, path: { stages } });
            });
            if (answer.kind !== 'samples' || answer.channels[0].length !== rate * seconds) throw new Error(JSON.stringify(answer));
            best = Math.min(best, performance.now() - start);
        }
        return seconds * 1000 / best;
    };
    const time = async build => {
        let best = Infinity;
        for (let i = 0; i < 5; i++) {
            const context = new OfflineAudioContext(2, rate * seconds, rate);
            await build(context);
            const start = performance.now();
            const out = await context.startRendering();
            best = Math.min(best, performance.now() - start);
            if (!out.getChannelData(0).subarray(rate, 2 * rate).some(x => x !== 0)) throw new Error('silence');
        }
        return seconds * 1000 / best;
    };
    // 24 bells: the equaliser against a chain of the browser's own biquad filters; 12 bells in each phase.
    const bells = (count, phase) => {
        const params = { phase };
        for (let n = 1; n <= count; n++) Object.assign(params, { [`kind_${n}`]: 6, [`freq_${n}_hz`]: Math.min(20000, 40 * 1.28 ** n), [`gain_${n}_db`]: 3 });
        return [{ effect: 'equaliser', params }];
    };
    const biquads = count => async context => {
        const source = new AudioBufferSourceNode(context, { buffer: noise });
        let end = source;
        for (let n = 1; n <= count; n++) {
            end = end.connect(new BiquadFilterNode(context, { type: 'peaking', frequency: Math.min(20000, 40 * 1.28 ** n), gain: 3, Q: 1 }));
        }
        end.connect(context.destination);
        source.start();
    };
    // Convolution with a plate of 2.4 s: the same response in the browser's own convolver.
    const response = { kind: 'response-bright-plate' };
    const answered = await new Promise(resolve => {
        worker.onmessage = ({ data }) => resolve(data.channels);
        worker.postMessage({ kind: 'samples', id: 0, source: response, path: { stages: [] } });
    });
    const convolver = async context => {
        const buffer = new AudioBuffer({ numberOfChannels: 2, length: answered[0].length, sampleRate: rate });
        answered.forEach((samples, c) => buffer.copyToChannel(samples, c));
        const source = new AudioBufferSourceNode(context, { buffer: noise });
        source.connect(new ConvolverNode(context, { buffer, disableNormalization: true })).connect(context.destination);
        source.start();
    };
    const all = ['compressor', 'gate', 'de-esser', 'multiband', 'saturation', 'limiter'].map(effect => ({ effect }));
    done([await inWorker([{ effect: 'compressor' }]), await time(worklet([{ effect: 'compressor' }])), await time(native), await time(worklet(all)),
        await inWorker(bells(24, 0)), await time(biquads(24)), await time(worklet(bells(12, 0))), await time(worklet(bells(12, 1))),
        await inWorker([{ effect: 'convolution', mix: 1, sounds: { response } }]), await time(convolver)]);
})().catch(e => done(String(e)));
