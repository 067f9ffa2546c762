// What cannot be read as the page stands: texts that are cut off without a sign, stand one over another, or are squeezed
// into a column of syllables; things to press that are out of the window. Tables may go on to the side.
() => {
  const sideways = "table, svg, canvas, .cm-editor";
  const seen = (one) => {
    if (one.closest("[hidden], .sr-only, dialog:not([open])")) return false;
    const style = getComputedStyle(one);
    return (
      style.visibility !== "hidden" &&
      style.opacity !== "0" &&
      one.checkVisibility({ contentVisibilityAuto: true })
    );
  };
  const clip = (one) => {
    // The part of the window that shows it, by what cuts it off on the way up.
    let box = { left: 0, right: innerWidth, top: -1e9, bottom: 1e9, by: null };
    for (let up = one.parentElement; up; up = up.parentElement) {
      const style = getComputedStyle(up);
      if (style.overflowX === "visible") continue;
      const own = up.getBoundingClientRect();
      if (own.right < box.right) box = { ...box, right: own.right, by: up };
      if (own.left > box.left) box.left = own.left;
      if (style.overflowY !== "visible") {
        box.top = Math.max(box.top, own.top);
        box.bottom = Math.min(box.bottom, own.bottom);
      }
    }
    return box;
  };
  const shortened = (one) => {
    for (let up = one; up && up !== document.body; up = up.parentElement)
      if (
        getComputedStyle(up).textOverflow === "ellipsis" ||
        getComputedStyle(up).webkitLineClamp !== "none"
      )
        return up;
    return null;
  };
  const pen = document.createElement("canvas").getContext("2d");
  const found = [];
  const texts = [];
  const walker = document.createTreeWalker(document.body, NodeFilter.SHOW_TEXT);
  for (let node = walker.nextNode(); node; node = walker.nextNode()) {
    const own = node.parentElement;
    if (
      !node.data.trim() ||
      !seen(own) ||
      own.closest("script, style, option, select")
    )
      continue;
    const range = document.createRange();
    range.selectNodeContents(node);
    const shown = clip(own);
    const room = shortened(own)?.getBoundingClientRect();
    const rects = [...range.getClientRects()].filter(
      (r) => r.width > 1 && r.height > 1,
    );
    if (rects.length === 0) continue;
    const words = node.data.trim().slice(0, 40);
    const whole = range.getBoundingClientRect();
    if (rects.length >= 6 && whole.width < 80 && !own.closest("svg"))
      found.push(`squeezed: ${words}`);
    for (const r of rects) {
      if (!own.closest(sideways) && !room && r.right > shown.right + 1.5) {
        found.push(`cut: ${words}`);
        break;
      }
    }
    if (
      own.closest("svg") ||
      getComputedStyle(own).position === "fixed" ||
      own.closest(".pane-opener")
    )
      continue;
    for (const r of rects) {
      const box = {
        left: Math.max(r.left, shown.left, room?.left ?? -1e9),
        right: Math.min(r.right, shown.right, room?.right ?? 1e9),
        top: Math.max(r.top, shown.top, room?.top ?? -1e9),
        bottom: Math.min(r.bottom, shown.bottom, room?.bottom ?? 1e9),
      };
      if (box.right - box.left > 2 && box.bottom - box.top > 2)
        texts.push({ own, words, box });
    }
  }
  texts.sort((a, b) => a.box.top - b.box.top);
  const over = (one) =>
    one.closest(".over, .side-pane[data-open], dialog, [class*=sticky], thead");
  for (let i = 0; i < texts.length; i++)
    for (
      let j = i + 1;
      j < texts.length && texts[j].box.top < texts[i].box.bottom - 4;
      j++
    ) {
      const [a, b] = [texts[i], texts[j]];
      if (a.own === b.own || over(a.own) !== over(b.own)) continue;
      const wide =
        Math.min(a.box.right, b.box.right) - Math.max(a.box.left, b.box.left);
      const high =
        Math.min(a.box.bottom, b.box.bottom) - Math.max(a.box.top, b.box.top);
      if (wide > 4 && high > 6)
        found.push(`overprinted: ${a.words} / ${b.words}`);
    }
  for (const one of document.querySelectorAll(
    "button, a, input:not([type=range]), select, textarea",
  )) {
    if (!seen(one) || one.closest(sideways)) continue;
    const r = one.getBoundingClientRect();
    if (r.width > 1 && r.right > clip(one).right + 2 && !shortened(one))
      found.push(
        `cut: ${one.tagName} ${one.getAttribute("aria-label") ?? one.textContent.slice(0, 30)}`,
      );
    if (one.placeholder && !one.value && one.tagName === "INPUT") {
      const style = getComputedStyle(one);
      pen.font = style.font;
      const room =
        one.clientWidth -
        parseFloat(style.paddingLeft) -
        parseFloat(style.paddingRight);
      if (pen.measureText(one.placeholder).width > room + 1)
        found.push(`cut: ${one.placeholder}`);
    }
    if (one.tagName === "TEXTAREA" && r.width < 120)
      found.push(`squeezed: ${one.getAttribute("aria-label")}`);
  }
  return [...new Set(found)];
};
