// Drops a file on the page: its name and its bytes in base64.
const [name, base64] = arguments;
const bytes = Uint8Array.from(atob(base64), c => c.charCodeAt(0));
const transfer = new DataTransfer();
transfer.items.add(new File([bytes], name));
for (const kind of ['dragover', 'drop']) {
    document.querySelector('main').dispatchEvent(new DragEvent(kind, { bubbles: true, cancelable: true, dataTransfer: transfer }));
}
