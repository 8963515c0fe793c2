// Catches the files that the page would hand to the browser's downloads.
window.caught = [];
const make = URL.createObjectURL.bind(URL);
URL.createObjectURL = blob => { window.latestBlob = blob; return make(blob); };
HTMLAnchorElement.prototype.click = function () { window.caught.push({ name: this.download, blob: window.latestBlob }); };
