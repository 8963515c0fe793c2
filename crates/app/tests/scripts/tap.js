// Taps what goes to the loudspeakers: whatever is connected to the destination also goes to an analyser.
const connect = AudioNode.prototype.connect;
AudioNode.prototype.connect = function (to, ...rest) {
    if (to instanceof AudioDestinationNode) {
        window.tap = new AnalyserNode(this.context, { fftSize: 32768 });
        connect.call(this, window.tap);
    }
    return connect.call(this, to, ...rest);
};
