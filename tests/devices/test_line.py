"""The line protocol: what is sent is what is read, and damage is noticed."""

from __future__ import annotations

import contextlib
import socket
import threading

import pytest
from hypothesis import given
from hypothesis import strategies as st

from endurant.core.refusals import Invalid
from endurant.devices.line import GarbledMessage, Message, decode, encode
from endurant.devices.tcp import Lines

names = st.text("abcdefghijklmnopqrstuvwxyz_", min_size=1, max_size=8)
values = st.text("abcdefghijklmnopqrstuvwxyz0123456789.-", max_size=10)


@given(names, st.dictionaries(names, values, max_size=5))
def test_messages_come_back_as_they_were_sent(word: str, fields: dict[str, str]) -> None:
    assert decode(encode(Message(word, fields))) == Message(word, fields)


@given(st.integers(0, 30), st.integers(0, 7))
def test_a_flipped_bit_is_noticed(place: int, bit: int) -> None:
    line = bytearray(encode(Message("S", {"n": "12", "t": "0.24", "x": "0.4000", "f": "0.61"})))
    line[place % (len(line) - 1)] ^= 1 << bit
    with pytest.raises(GarbledMessage):
        decode(bytes(line))


@pytest.mark.parametrize("line", [b"", b"STATUS\n", b"\xff\xfe\n", b"S n=1 *0000\n", b"* \n"])
def test_what_is_no_line_is_rubbish(line: bytes) -> None:
    with pytest.raises(GarbledMessage):
        decode(line)


def test_fields_that_are_missing_or_no_numbers() -> None:
    message = Message("S", {"n": "twelve"})
    with pytest.raises(GarbledMessage, match="n is not a number"):
        message.number("n")
    with pytest.raises(GarbledMessage, match="lacks t"):
        message.text("t")


@pytest.mark.parametrize("value", ["two words", "a\nRUN test=1", "a*FFFF", "\u00e9", "x" * 4000])
def test_a_value_that_would_part_the_line_is_not_sent(value: str) -> None:
    with pytest.raises(Invalid, match="device.word-expected"):
        encode(Message("PRETEND", {"fault": value}))


@pytest.mark.parametrize("text", ["nan", "inf", "-inf", "much"])
def test_a_number_of_a_device_is_finite(text: str) -> None:
    with pytest.raises(GarbledMessage):
        Message("READ", {"value": text}).number("value")


def test_a_device_that_talks_without_end_is_cut_off() -> None:
    with socket.create_server(("127.0.0.1", 0)) as server:
        line = encode(Message("BEAT", {"n": "1"}))

        def talk() -> None:
            connection, _ = server.accept()
            with connection, contextlib.suppress(OSError):
                while True:
                    connection.sendall(line * 100)

        threading.Thread(target=talk, daemon=True).start()
        with (
            socket.create_connection(server.getsockname(), 5) as connection,
            pytest.raises(GarbledMessage, match="endless messages"),
        ):
            for _ in Lines(connection).messages(within_s=0.05):
                pass
