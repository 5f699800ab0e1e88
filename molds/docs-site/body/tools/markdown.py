"""The part of Markdown that the pages use: headings, paragraphs, lists, quotes, code, emphasis, links and images."""

import html
import re

INLINE = re.compile(
    r"`(?P<code>[^`]+)`"
    r"|!\[(?P<alt>[^\]]*)\]\((?P<image>[^)\s]+)\)"
    r"|\[(?P<text>[^\]]+)\]\((?P<link>[^)\s]+)\)"
    r"|\*\*(?P<strong>.+?)\*\*"
    r"|\*(?P<em>[^*]+)\*"
    r"|\\(?P<plain>[!-/:-@\[-`{-~])"
)


def inline(text):
    """A line's HTML; everything that is no mark-up is escaped."""
    out, end = [], 0
    for found in INLINE.finditer(text):
        out.append(html.escape(text[end : found.start()]))
        end = found.end()
        parts = found.groupdict()
        if parts["code"] is not None:
            out.append(f"<code>{html.escape(parts['code'])}</code>")
        elif parts["image"] is not None:
            out.append(f'<img src="{html.escape(target(parts["image"]))}" alt="{html.escape(parts["alt"])}">')
        elif parts["link"] is not None:
            out.append(f'<a href="{html.escape(target(parts["link"]))}">{inline(parts["text"])}</a>')
        elif parts["strong"] is not None:
            out.append(f"<strong>{inline(parts['strong'])}</strong>")
        elif parts["em"] is not None:
            out.append(f"<em>{inline(parts['em'])}</em>")
        else:
            out.append(html.escape(parts["plain"]))
    return "".join(out) + html.escape(text[end:])


def target(link):
    """Where a link leads on the site: pages are named .html there. Scripts are no target."""
    if re.match(r"(?i)\s*(javascript|data|vbscript):", link):
        return "#"
    return re.sub(r"^([^:#?]+)\.md(?=$|#)", r"\1.html", link)


def plain(text):
    """A line without its mark-up."""
    return html.unescape(re.sub(r"<[^>]*>", "", inline(text)))


def render(text):
    """The HTML of a page's text."""
    lines = text.expandtabs(4).splitlines()
    out, at = [], 0

    def gather(belongs):
        nonlocal at
        start = at
        while at < len(lines) and belongs(lines[at]):
            at += 1
        return lines[start:at]

    while at < len(lines):
        line = lines[at]
        if not line.strip():
            at += 1
        elif line.startswith("```"):
            at += 1
            code = gather(lambda other: not other.startswith("```"))
            at += 1
            out.append(f"<pre><code>{html.escape(chr(10).join(code))}</code></pre>")
        elif line.startswith("    "):
            code = gather(lambda other: other.startswith("    ") or not other.strip())
            text = "\n".join(other[4:] for other in code).rstrip()
            out.append(f"<pre><code>{html.escape(text)}</code></pre>")
        elif heading := re.match(r"(#{1,6})\s+(.*)", line):
            level = len(heading[1])
            name = re.sub(r"[^\w]+", "-", plain(heading[2]).lower()).strip("-")
            out.append(f'<h{level} id="{html.escape(name)}">{inline(heading[2])}</h{level}>')
            at += 1
        elif re.fullmatch(r"\s*(-{3,}|\*{3,})\s*", line):
            out.append("<hr>")
            at += 1
        elif line.startswith(">"):
            quoted = gather(lambda other: other.startswith(">"))
            out.append(f"<blockquote>{render(chr(10).join(other[1:].lstrip() for other in quoted))}</blockquote>")
        elif item := re.match(r"([-*]|\d+\.)\s+", line):
            tag = "ol" if item[1][0].isdigit() else "ul"
            items = gather(lambda other: re.match(r"([-*]|\d+\.)\s+", other))
            rows = "".join(f"<li>{inline(re.sub(r'^([-*]|[0-9]+[.])[ ]+', '', other))}</li>" for other in items)
            out.append(f"<{tag}>{rows}</{tag}>")
        else:
            text = gather(lambda other: other.strip() and not re.match(r"(#{1,6}\s|```|>|[-*]\s|\d+\.\s)", other)) or [lines[at]]
            at += not text[0].strip() or (at < len(lines) and lines[at] is text[0])
            out.append(f"<p>{inline(' '.join(other.strip() for other in text))}</p>")
    return "\n".join(out)
