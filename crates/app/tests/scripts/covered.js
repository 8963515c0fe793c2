// Letters of the picture that lie over others, each pair once.
const letters = [...document.querySelectorAll("[role=tabpanel] svg text")].filter((text) => text.textContent.trim() !== "" && text.checkVisibility({ visibilityProperty: true }));
return letters.flatMap((one, i) =>
    letters.slice(i + 1).flatMap((other) => {
        const [a, b] = [one.getBoundingClientRect(), other.getBoundingClientRect()];
        const wide = Math.min(a.right, b.right) - Math.max(a.left, b.left);
        const high = Math.min(a.bottom, b.bottom) - Math.max(a.top, b.top);
        return wide > 1 && high > 4 ? [`${one.textContent} | ${other.textContent}`] : [];
    }),
);
