"""The reader and its simulator on a real pseudo-terminal; the same story from both ends."""

import os
import queue
import threading
import tty

import pytest
from hypothesis import given
from hypothesis import strategies as st

from inner_rim.devices.reader import Garbage, LineReader, PortLost, open_serial, read_line
from inner_rim.devices.simulator import Simulator, Word, spoken
from inner_rim.work.tasks.tools import Averager, Tool


class Pty:
    """A line whose far end the test itself writes, as a tool would."""

    def __init__(self, words):
        self.near, self.far = os.openpty()
        tty.setraw(self.far)
        self.port, self.words = os.ttyname(self.far), list(words)

    def start(self):
        os.write(self.near, b"\r\n")  # the end of whatever was said before
        for word in self.words:
            threading.Event().wait(word.after_s)  # as long as the script says
            if word.unplug:
                self.stop()
            else:
                os.write(self.near, word.data)

    def stop(self):
        for end in (self.near, self.far):
            if end >= 0:
                os.close(end)
        self.near = self.far = -1


def garbled(count, every_s):
    """Noise such as a loose plug makes."""
    for i in range(count):
        yield Word(every_s, bytes([0x80 + i % 64, 0xFF, 0x41]) + b"\r\n")


@pytest.fixture(params=[Simulator, Pty])
def listen(request):
    """Return what connects a reader to words said at the other end and gives (readings, faults)."""
    open_ends = []

    def connect(words, tool="caliper", **more):
        end = request.param(words)
        heard, wrong = queue.Queue(), queue.Queue()
        reader = LineReader(
            open_serial(end.port),
            tool,
            lambda said, at: heard.put(said),
            lambda *f: wrong.put(f[0]),
            **more,
        )
        open_ends.append((reader, end))
        reader.start()
        end.start()
        return heard, wrong

    yield connect
    for reader, end in open_ends:
        reader.stop()
        end.stop()


@pytest.mark.parametrize(
    "said",
    [
        b"4.02 mm\r\n23.97 mm\r\n",  # the port was opened in the middle of a line
        b"\n" + b"7" * 300 + b"12.5 mm\r\n23.97 mm\r\n",  # a line without an end, then its tail
        b"\n23.97 mm\r\n24.0",  # the cable was pulled in the middle of one
    ],
)
def test_half_a_line_is_never_a_reading(said):
    end = Pty([])
    heard, wrong = queue.Queue(), queue.Queue()
    port = open_serial(end.port)
    os.write(end.near, said)
    reader = LineReader(port, "caliper", lambda s, at: heard.put(s), lambda *f: wrong.put(f[0]))
    reader.start()
    assert heard.get(timeout=5.0) == 23.97
    end.stop()
    assert wrong.get(timeout=5.0) == "unplugged" and heard.empty()
    reader.stop()


def first(source, count):
    return [source.get(timeout=5.0) for _ in range(count)]


def test_readings_come_in_order_whatever_the_unit(listen):
    heard, wrong = listen(
        [*spoken([24.02, 23.97], 0.001), Word(0.0, b"D=0.5 in\n"), Word(0.0, b"\r\n3,4\r\n")]
    )
    assert first(heard, 4) == pytest.approx([24.02, 23.97, 12.7, 3.4])
    assert wrong.empty()


def test_a_line_in_pieces_is_one_reading(listen):
    heard, _wrong = listen([Word(0.001, b"24."), Word(0.001, b"02 m"), Word(0.001, b"m\r\n")])
    assert first(heard, 1) == [24.02]


def test_garbage_is_told_once_and_readings_after_it_count(listen):
    heard, wrong = listen([*garbled(20, 0.001), *spoken([7.0], 0.001)])
    assert first(heard, 1) == [7.0]
    assert first(wrong, 2) == ["garbage", "none"]


def test_a_pulled_cable_is_told_and_what_was_read_is_kept(listen):
    heard, wrong = listen([*spoken([7.0, 7.1], 0.01), Word(0.3, unplug=True)])
    assert first(heard, 2) == [7.0, 7.1]
    assert first(wrong, 1) == ["unplugged"]


def test_a_tool_that_hangs_is_told(listen):
    heard, wrong = listen([*spoken([7.0], 0.001)], silent_seconds=0.3)
    assert first(heard, 1) == [7.0] and first(wrong, 1) == ["silent"]


def test_a_port_that_is_not_there_is_a_sentence(tmp_path):
    with pytest.raises(PortLost):
        open_serial(str(tmp_path / "ttyNone"))
    tool = Tool("caliper", lambda call: call())
    assert not tool.connect(str(tmp_path / "ttyNone")) and "cannot be opened" in tool.words


@given(st.text(max_size=120))
def test_any_line_is_a_reading_in_range_or_garbage(line):
    for tool, low, high in (("caliper", 0.0, 1000.0), ("gauge", -5.0, 5000.0)):
        try:
            said = read_line(line, tool)
        except Garbage:
            continue
        assert low <= said <= high


@pytest.mark.parametrize(
    "line", ["", "12.3.4", "12 kg", "-3 mm", "9999 mm", "1e9", "error 7 x", "33 furlongs"]
)
def test_what_is_no_reading_is_garbage(line):
    with pytest.raises(Garbage):
        read_line(line, "caliper")


def test_three_readings_are_averaged_and_a_large_spread_is_questioned():
    three = Averager()
    assert three.add("width", 24.0) is None and three.add("width", 24.1) is None
    taken = three.add("width", 23.9)
    assert (
        taken.mean == pytest.approx(24.0)
        and taken.spread == pytest.approx(0.2)
        and not taken.questioned
    )
    three.add("width", 24.0)
    # another field starts afresh
    assert three.add("depth", 3.0) is None and three.waiting == (3.0,)
    three.add("depth", 3.9)
    assert three.add("depth", 3.0).questioned


def test_a_tool_speaks_through_its_deliverer_and_lets_go():
    calls, ready = [], threading.Event()

    def deliver(call):
        calls.append(call)
        ready.set()

    tool = Tool("caliper", deliver)
    heard = []
    tool.heard.connect(lambda said, at: heard.append(said))
    assert tool.simulate(spoken([24.02], 0.001)) and tool.live
    assert ready.wait(5.0)
    calls[0]()
    assert heard == [24.02]
    tool.off()
    assert not tool.live and tool.words == "not connected"
