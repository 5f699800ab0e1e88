"""The site as it is built: its mark-up, and that every link leads somewhere."""

import re
import sys
import unittest
from pathlib import Path

sys.path.insert(0, str(Path(__file__).resolve().parent.parent / "tools"))
import build
import markdown


class MarkdownTest(unittest.TestCase):
    def test_marks_become_html(self):
        cases = [
            ("# A *b*", '<h1 id="a-b">A <em>b</em></h1>'),
            ("one\ntwo", "<p>one two</p>"),
            ("- a\n- `b`", "<ul><li>a</li><li><code>b</code></li></ul>"),
            ("1. a", "<ol><li>a</li></ol>"),
            ("[x](02-a.md#y)", '<p><a href="02-a.html#y">x</a></p>'),
            ("![x](a.png)", '<p><img src="a.png" alt="x"></p>'),
            ("    a\n\n      b", "<pre><code>a\n\n  b</code></pre>"),
            ("```\n<a>\n```", "<pre><code>&lt;a&gt;</code></pre>"),
            ("> **a**", "<blockquote><p><strong>a</strong></p></blockquote>"),
            ("a\n# b", '<p>a</p>\n<h1 id="b">b</h1>'),
            (r"\*a\* <b>", "<p>*a* &lt;b&gt;</p>"),
            ("[x](javascript:y)", '<p><a href="#">x</a></p>'),
            ("---", "<hr>"),
        ]
        for text, expected in cases:
            with self.subTest(text):
                self.assertEqual(markdown.render(text), expected)


class SiteTest(unittest.TestCase):
    def test_every_link_leads_somewhere(self):
        site = build.build()
        out = build.TOP / "build"
        self.assertEqual(sum(map(len, site.values())) + 1, len(list(out.rglob("*.html"))))
        for page in out.rglob("*.html"):
            text = page.read_text(encoding="utf-8")
            for link in re.findall(r'(?:href|src)="([^"]+)"', text):
                if not re.match(r"[a-z]+:|#", link):
                    self.assertTrue((page.parent / link.split("#")[0]).exists(), f"{page}: {link}")


if __name__ == "__main__":
    unittest.main()
