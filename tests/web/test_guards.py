"""Safe by default: hosts, tokens, headers, sizes."""

import re
from collections.abc import Iterator

from frost_tally.web.assets import address
from tests.web.client import WebCase


class Guards(WebCase):
    def test_every_answer_carries_the_strict_policy(self) -> None:
        for path in ("/tonight", f"{address()}/frost.css", "/nowhere", "/basis"):
            answer = self.client.get(path)
            policy = answer.headers["content-security-policy"]
            self.assertIn("script-src 'self'", policy)
            self.assertNotIn("unsafe", policy)
            self.assertEqual(answer.headers["x-content-type-options"], "nosniff")

    def test_pages_have_no_inline_script_or_style(self) -> None:
        for path in ("/tonight", "/garage", "/basis", "/setup/car"):
            page = self.client.get(path).text
            for forbidden in ("<style", " style=", "onclick=", "javascript:"):
                self.assertNotIn(forbidden, page)
            scripts = re.findall(r"<script\b([^>]*)>(.*?)</script>", page, re.DOTALL)
            self.assertGreater(len(scripts), 2, path)
            for attributes, inside in scripts:
                self.assertEqual((" src=" in attributes, inside.strip()), (True, ""), path)

    def test_another_host_is_refused(self) -> None:
        self.assertEqual(self.client.get("/tonight", headers={"host": "evil.example"}).status_code, 400)

    def test_a_change_without_its_token_is_refused_and_changes_nothing(self) -> None:
        self.client.get("/tonight")
        for fields in ({}, {"token": "made-up"}, {"token": "x" * 500}):
            self.assertEqual(self.client.post("/tonight/clock", data=fields).status_code, 403)
        good = self.fields("/tonight")
        crossed = self.client.post("/tonight/clock", data=good, headers={"sec-fetch-site": "cross-site"})
        self.assertEqual(crossed.status_code, 403)
        self.assertIn("18:12", self.client.get("/tonight").text)

    def test_a_token_of_another_visit_is_refused(self) -> None:
        good = self.fields("/tonight")
        self.client.cookies.clear()
        self.client.get("/tonight")
        self.assertEqual(self.client.post("/tonight/clock", data=good).status_code, 403)

    def test_a_form_of_two_megabytes_is_refused(self) -> None:
        answer = self.post("/tonight/keep", km="9" * 2_000_000)
        self.assertEqual(answer.status_code, 413)
        self.assertIn("Nothing was saved", answer.text)

    def test_a_stream_that_does_not_say_its_length_is_refused(self) -> None:
        def stream() -> Iterator[bytes]:
            for _ in range(2000):
                yield b"x" * 1000

        answer = self.client.post(
            "/tonight/keep", content=stream(), headers={"content-type": "application/x-www-form-urlencoded"}
        )
        self.assertEqual(answer.status_code, 413)

    def test_missing_pages_are_said_in_words(self) -> None:
        answer = self.client.get(f"{address()}/../../../etc/passwd")
        self.assertEqual(answer.status_code, 404)
        self.assertIn("no such page", self.client.get("/nowhere").text)

    def test_head_is_get_without_its_body(self) -> None:
        """RFC 9110, section 9.3.2."""
        for path in ("/tonight", "/garage/tariffs/1/tariff.json", f"{address()}/mark.svg"):
            whole, head = self.client.get(path), self.client.head(path)
            self.assertEqual((head.status_code, head.text), (200, ""))
            self.assertEqual(head.headers["content-type"], whole.headers["content-type"])
        self.assertEqual(self.client.head("/nowhere").status_code, 404)

    def test_what_a_page_loads_is_small_and_kept_for_good(self) -> None:
        """Under 150 kB packed, fonts and scripts with it; an address changes with the content, so it is never asked for again."""
        page = self.client.get("/tonight")
        named = re.findall(r'(?:href|src)="(/static/[^"]+)"', page.text)
        style = next(each for each in named if each.endswith("frost.css"))
        named += [style.replace("frost.css", each) for each in re.findall(r'url\("([^"]+)"\)', self.client.get(style).text)]
        got = [self.client.get(each) for each in dict.fromkeys(named)]
        self.assertTrue(all("immutable" in each.headers["cache-control"] for each in got), named)
        packed = sum(each.num_bytes_downloaded for each in (page, *got))
        self.assertTrue(50_000 < packed < 150_000, packed)
