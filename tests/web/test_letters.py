"""Letters: to whom they go, what the sender hands over (RFC 5321, RFC 5322), and what is said when it cannot."""

from dataclasses import replace
from email import message_from_bytes, policy
from typing import Any

from pydantic import SecretStr

from frost_tally.formats import values
from frost_tally.household.models import PersonRow
from frost_tally.live.reminding import remind
from frost_tally.mail import Smtp
from frost_tally.services.garage import reached
from frost_tally.settings import Settings
from frost_tally.standins.mail_box import MailBox
from tests.homes import app_on
from tests.web.client import PREFERENCES, Patient, WebCase


class Raw(MailBox):
    """Keeps the bytes too, and refuses one address."""

    last = b""

    async def handle_RCPT(self, server: Any, session: Any, envelope: Any, address: str, options: Any) -> str:
        if address.startswith("nobody@"):
            return "550 nobody here"
        envelope.rcpt_tos.append(address)
        return "250 OK"

    async def handle_DATA(self, server: Any, session: Any, envelope: Any) -> str:
        self.last = envelope.content
        return await super().handle_DATA(server, session, envelope)


class Letters(WebCase):
    def setUp(self) -> None:
        super().setUp()
        self.box = Raw()
        self.box.start()
        self.addCleanup(self.box.stop)
        self.on(self.settings.model_copy(update={"smtp_host": "127.0.0.1", "smtp_port": self.box.port, "smtp_security": "none"}))

    def on(self, settings: Settings) -> None:
        world = replace(self.household.world, mail=Smtp(settings), letter_box=self.box)
        self.household = replace(self.household, world=world)
        self.client = Patient(app_on(self.settings, self.household), base_url="http://127.0.0.1:8642", follow_redirects=True)

    def person(self, **typed: str) -> str:
        page = "/garage/edit/person/1"
        known = {"name": "Everyone", "distance_unit": "km", "temperature_unit": "C", "pressure_unit": "kPa", "date_order": "dmy"}
        return self.post(
            page, page=page, **known, **PREFERENCES, **{"currency": "EUR", "per_contract": "1", "mailed": "no", **typed}
        ).text

    def test_a_test_letter_comes_to_whoever_typed_an_address_and_others_only_after_a_yes(self) -> None:
        self.assertNotIn("Send a test letter", self.client.get("/garage").text)
        self.person(email="ida@example.org")
        self.assertEqual(reached(self.read()), ())
        page = self.post("/garage/letter", page="/garage", person="1").text
        (letter,) = self.box.letters()
        self.assertIn("look whether it comes", page)
        self.assertEqual((letter.to, letter.subject), ("ida@example.org", "Frost Tally: a test letter"))
        self.assertIn("No letters go to ida@example.org", page)
        self.assertIn(letter.text.partition(".")[0], page)
        raw = message_from_bytes(self.box.last, policy=policy.default)
        self.assertEqual((raw["Auto-Submitted"], str(raw["To"])), ("auto-generated", "ida@example.org"))
        self.assertTrue(all(raw[name] for name in ("From", "Date", "Message-ID")))
        self.person(email="ida@example.org", mailed="yes")
        self.assertEqual(reached(self.read()), ("ida@example.org",))
        self.assertIn("Letters go to ida@example.org", self.client.get("/garage").text)

    def test_an_address_that_is_none_stays_typed_and_nothing_is_kept(self) -> None:
        for wrong in (
            "ida",
            "ida@",
            "@x.org",
            "a b@x.org",
            "a@x..org",
            "a@-x.org",
            "a@x.org\nBcc: b@x.org",
            "ö@x.org",
            "a" * 65 + "@x.org",
            ".a@x.org",
        ):
            with self.subTest(wrong):
                self.assertIn("such as ida@example.org", self.person(email=wrong))
                self.assertEqual(self.home.people[0].email, "")
        for right in ("a@x.org", "ida.frost+tally@mail.example", "o'hara@x", "a_b-c@a-b.example"):
            self.assertEqual(values.email(f" {right} "), right)
        self.assertIn("enter the address that they go to", self.person(mailed="yes"))

    def test_what_goes_wrong_is_said(self) -> None:
        self.person(email="nobody@example.org")
        self.assertIn("does not take letters to nobody@example.org", self.post("/garage/letter", page="/garage", person="1").text)
        self.assertIn("There is nobody of this number", self.post("/garage/letter", page="/garage", person="9").text)
        here = {"smtp_host": "127.0.0.1", "smtp_port": self.box.port, "smtp_security": "none"}
        for more, said in (
            ({"smtp_security": "starttls"}, "does not take the letter: STARTTLS"), ({"smtp_security": "tls"}, "cannot be trusted"),
            ({"smtp_user": "ida", "smtp_password": SecretStr("x")}, "does not take the letter"), ({"smtp_port": 9}, "refused"),
        ):  # fmt: skip
            with self.subTest(said):
                self.on(self.settings.model_copy(update=here | more))
                self.assertIn(said, self.post("/garage/letter", page="/garage", person="1").text)
        self.assertEqual(self.box.letters(), ())

    def remind_at(self, hour: int, minute: int) -> list[str]:
        """The subjects of what was sent at a time of the demo's evening."""
        now = self.read().now.replace(hour=hour, minute=minute)
        self.household.world.clock.set(now)  # type: ignore[attr-defined]
        before = len(self.box.letters())
        remind(self.household)
        return [each.subject for each in self.box.letters()[: len(self.box.letters()) - before]]

    def test_reminders_come_once_each_after_a_yes_and_never_again_after_a_restart(self) -> None:
        self.assertEqual(self.remind_at(22, 40), [])
        self.person(email="ida@example.org")
        self.assertEqual(self.remind_at(22, 41), [])
        self.person(email="ida@example.org", mailed="yes")
        first = self.remind_at(22, 45)
        self.assertIn("Marten: plug it in", first)
        self.assertEqual(self.remind_at(22, 46), [])
        self.on(self.settings.model_copy(update={"smtp_host": "127.0.0.1", "smtp_port": self.box.port, "smtp_security": "none"}))
        self.assertEqual(self.remind_at(22, 47), [])
        letter = next(each for each in self.box.letters() if each.subject == "Marten: plug it in")
        self.assertIn("Charging", letter.text)
        self.assertIn("there is the no as well", letter.text)
        self.assertIn("plug it in", self.client.get("/garage").text)

    def test_a_cable_that_was_seen_in_is_no_reason_and_what_cannot_be_sent_is_written_down(self) -> None:
        self.person(email="ida@example.org", mailed="yes")
        self.post("/tonight/start", page="/tonight?car=1", car="1", amps="16")
        self.assertNotIn("Marten: plug it in", self.remind_at(22, 45))
        self.person(email="nobody@example.org", mailed="yes")
        with self.household.recording() as session:
            session.connection().exec_driver_sql("DELETE FROM reminder")
            session.connection().exec_driver_sql("DELETE FROM start_check")
        self.assertEqual(self.remind_at(22, 50), [])
        page = self.client.get("/garage").text
        self.assertIn("It did not go out", page)
        self.person(email="ida@example.org", mailed="yes")
        self.assertEqual([each for each in self.remind_at(22, 51) if "plug" in each], [])

    def test_an_address_that_is_refused_keeps_nobody_else_from_the_letter(self) -> None:
        self.person(email="nobody@example.org", mailed="yes")
        with self.household.recording() as session:
            session.add(PersonRow(name="Ida", email="ida@example.org", mailed=True))
        self.assertIn("Marten: plug it in", self.remind_at(22, 45))
        self.assertEqual({each.to for each in self.box.letters()}, {"ida@example.org"})
        self.assertIn("It did not go out", self.client.get("/garage").text)

    def test_letters_leave_this_machine_by_tls_alone_and_the_password_is_not_printed(self) -> None:
        with self.assertRaisesRegex(ValueError, "by TLS alone"):
            Settings(smtp_host="mail.example.org", smtp_security="none")
        with self.assertRaisesRegex(ValueError, "mail_from"):
            Settings(mail_from="nobody")
        self.assertNotIn("geheim", repr(Settings(smtp_host="mail.example.org", smtp_password=SecretStr("geheim"))))
