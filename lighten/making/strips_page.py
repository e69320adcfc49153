"""A page that shows pictures of a document by several settings, in one HTML file."""

import base64
from collections.abc import Sequence
from html import escape
from itertools import pairwise
from pathlib import Path
from tempfile import TemporaryDirectory

from lighten.making.strips import Strip, write_light_strip
from lighten.model.limits import rounded_size
from lighten.model.weights import Part

__all__ = ["strips_page"]

_STYLE = """
:root { color-scheme: light dark; --line: #8886; --ink: #1f5b43; --rust: #a8401f; }
body { font: 16px/1.45 sans-serif; max-width: 1160px; margin: 24px auto; padding: 0 16px; }
h1 { font-size: 22px; } h2 { font-size: 17px; margin: 28px 0 8px; }
table { border-collapse: collapse; width: 100%; }
th, td { text-align: left; padding: 4px 12px 4px 0; border-bottom: 1px solid var(--line); }
td.n, th.n { text-align: right; font-variant-numeric: tabular-nums; }
.view { position: relative; overflow: hidden; height: 380px; border: 1px solid var(--line);
  cursor: grab; touch-action: none; }
.view > div { position: absolute; inset: 0; pointer-events: none; }
.view img { position: absolute; max-width: none; }
.view button { position: absolute; top: 0; bottom: 0; width: 24px; margin-left: -12px; border: 0;
  padding: 0; cursor: ew-resize; touch-action: none;
  background: linear-gradient(90deg, transparent 10px, #fff 10px 14px, transparent 14px);
  filter: drop-shadow(0 0 1px #000); }
.lost { color: var(--rust); font-weight: bold; }
.hint { opacity: .75; font-size: 14px; }
"""

# Strips move together; edges are dragged or moved by arrow keys; keys 1 to 4 put one over all.
_SCRIPT = """
for (const view of document.querySelectorAll('.view')) {
  const strips = [...view.querySelectorAll('div')], edges = [...view.querySelectorAll('button')];
  const shape = Number(view.dataset.shape);
  let at = edges.map((_, n) => (n + 1) / strips.length), x = .5, y = .5, zoom = 1, only = -1;
  const draw = () => {
    const w = view.clientWidth, h = view.clientHeight;
    const width = Math.max(w, h * shape) * zoom, height = width / shape;
    x = Math.min(1 - w / width / 2, Math.max(w / width / 2, x));
    y = Math.min(1 - h / height / 2, Math.max(h / height / 2, y));
    strips.forEach((strip, n) => {
      const left = only < 0 ? (at[n - 1] ?? 0) : n === only ? 0 : 1;
      const right = only < 0 ? (at[n] ?? 1) : 1;
      strip.style.clipPath = `inset(0 ${(1 - right) * 100}% 0 ${left * 100}%)`;
      const image = strip.firstElementChild;
      const [l, t, r, b] = image.dataset.cut.split(' ').map(Number);
      image.style.left = `${w / 2 + (l - x) * width}px`;
      image.style.top = `${h / 2 + (t - y) * height}px`;
      image.style.width = `${(r - l) * width}px`;
      image.style.height = `${(b - t) * height}px`;
    });
    edges.forEach((edge, n) => {
      edge.style.left = `${at[n] * 100}%`;
      edge.hidden = only >= 0;
      edge.setAttribute('aria-valuenow', Math.round(at[n] * 100));
    });
    view.zoomed = { width, height };
  };
  const moveEdge = (n, to) => {
    at[n] = Math.min((at[n + 1] ?? 1) - .04, Math.max((at[n - 1] ?? 0) + .04, to));
    draw();
  };
  edges.forEach((edge, n) => {
    edge.onpointerdown = (e) => { e.stopPropagation(); edge.setPointerCapture(e.pointerId); };
    edge.onpointermove = (e) => {
      const box = view.getBoundingClientRect();
      if (edge.hasPointerCapture(e.pointerId)) moveEdge(n, (e.clientX - box.left) / box.width);
    };
    edge.onkeydown = (e) => {
      const by = { ArrowLeft: -.02, ArrowRight: .02 }[e.key];
      if (by) { e.preventDefault(); e.stopPropagation(); moveEdge(n, at[n] + by); }
    };
  });
  view.onpointerdown = (e) => view.setPointerCapture(e.pointerId);
  view.onpointermove = (e) => {
    if (!view.hasPointerCapture(e.pointerId)) return;
    x -= e.movementX / view.zoomed.width; y -= e.movementY / view.zoomed.height;
    draw();
  };
  view.onkeydown = (e) => {
    const by = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] };
    const n = Number(e.key) - 1;
    if (by[e.key]) { x += by[e.key][0] * .05 / zoom; y += by[e.key][1] * .05 / zoom; }
    else if (e.key === '+' || e.key === '=') zoom = Math.min(12, zoom * 1.5);
    else if (e.key === '-') zoom = Math.max(1, zoom / 1.5);
    else if (n >= 0 && n < strips.length) only = only === n ? -1 : n;
    else if (e.key === 'Escape') only = -1;
    else return;
    e.preventDefault();
    draw();
  };
  addEventListener('resize', draw);
  draw();
}
"""


def strips_page(
    name: str,
    titles: Sequence[str],
    document_bytes: Sequence[int],
    shown: Sequence[tuple[Part, Sequence[Strip]]],
) -> str:
    """Return an HTML page that needs no other file.

    titles, document_bytes: of the settings, the original first. shown: pictures, each with a strip
    for each setting.
    """
    rows = "".join(
        f"<tr><th scope=row>{escape(title)}</th><td class=n>{'' if number == 0 else '~ '}"
        f"{rounded_size(size)}</td><td class=n>{size / document_bytes[0]:.0%}</td></tr>"
        for number, (title, size) in enumerate(zip(titles, document_bytes, strict=True))
    )
    pictures = "".join(_picture(part, titles, strips) for part, strips in shown)
    return (
        '<!doctype html><html lang="en"><head><meta charset="utf-8">'
        '<meta name="viewport" content="width=device-width, initial-scale=1">'
        f"<title>{escape(name)}: test strips</title><style>{_STYLE}</style></head><body>"
        f"<h1>{escape(name)}</h1><table><thead><tr><th scope=col>Setting</th>"
        "<th scope=col class=n>Document</th><th scope=col class=n>Of the original</th></tr>"
        f"</thead><tbody>{rows}</tbody></table><p class=hint>~ is an estimate from trials. Drag a "
        f"picture, or the edges between strips. Keys: 1 to {len(titles)} one setting over all, + "
        f"and - zoom, arrows move.</p>{pictures}<script>{_SCRIPT}</script></body></html>\n"
    )


def _picture(part: Part, titles: Sequence[str], strips: Sequence[Strip]) -> str:
    whole = next((strip for strip in strips if strip.cut is None), strips[0])
    height, width = whole.pixels.shape[:2]
    layers = "".join(f"<div>{_image(strip)}</div>" for strip in strips)
    edges = "".join(
        f'<button type=button role=slider aria-label="Edge between {escape(one)} and '
        f'{escape(other)}" aria-valuemin=0 aria-valuemax=100 aria-valuenow=0></button>'
        for one, other in pairwise(titles)
    )
    rows = "".join(_row(title, strip) for title, strip in zip(titles, strips, strict=True))
    pages = part.picture.pages if part.picture else ()
    at = f", page {pages[0]}" if pages else ""
    told = escape(f"{part.name}{at}: {', '.join(titles)}, from the left")
    return (
        f"<section><h2>{escape(part.name)}{at}</h2>"
        f'<div class=view tabindex=0 role=application aria-label="{told}" '
        f'data-shape="{width / height}">{layers}{edges}</div>'
        "<table><thead><tr><th scope=col>Setting</th><th scope=col class=n>Picture</th>"
        "<th scope=col class=n>ppi</th><th scope=col>How</th><th scope=col class=n>Score</th>"
        f"<th scope=col>Words</th></tr></thead><tbody>{rows}</tbody></table></section>"
    )


def _row(title: str, strip: Strip) -> str:
    lost = f"<span class=lost>{len(strip.lost)} of {strip.words} cannot be read</span>"
    score = "" if strip.score is None else f"{strip.score:.0f}"
    quality = "" if strip.quality is None else f"quality {strip.quality}, "
    return (
        f"<tr><th scope=row>{escape(title)}</th><td class=n>{rounded_size(strip.size_bytes)}</td>"
        f"<td class=n>{'' if strip.ppi is None else round(strip.ppi)}</td>"
        f"<td>{quality}{escape(strip.reason)}</td><td class=n>{score}</td>"
        f"<td>{lost if strip.lost else ''}</td></tr>"
    )


def _image(strip: Strip) -> str:
    """Return the pixels of a strip as an image inside the page."""
    with TemporaryDirectory() as place:
        path = Path(place) / "strip"
        media_type = write_light_strip(strip, path)
        data = base64.b64encode(path.read_bytes()).decode()
    cut = " ".join(f"{side:.6f}" for side in strip.cut or (0, 0, 1, 1))
    return f'<img alt="" draggable=false data-cut="{cut}" src="data:{media_type};base64,{data}">'
