"""Work in a process of its own: the same result, the same error, and none lost with the process."""

import os
import unittest

import numpy as np

from neige.core.beside import beside


def pid_of(_: int) -> int:
    return os.getpid()


def doubled(values: np.ndarray) -> np.ndarray:
    return 2 * values


def fails() -> None:
    raise ValueError("no such surface")


def dies_unless_in(pid: int) -> str:
    if os.getpid() != pid:
        os._exit(1)
    return "done"


class Beside(unittest.TestCase):
    def test_it_is_another_process_and_the_same_one_again(self):
        first, second = beside(pid_of, 1).result(), beside(pid_of, 2).result()
        self.assertNotEqual(first, os.getpid())
        self.assertEqual(first, second)

    def test_arrays_go_there_and_come_back(self):
        self.assertTrue(np.array_equal(beside(doubled, np.arange(5)).result(), [0, 2, 4, 6, 8]))

    def test_an_error_is_raised_here(self):
        with self.assertRaisesRegex(ValueError, "no such surface"):
            beside(fails).result()

    def test_work_whose_process_is_killed_is_done_here(self):
        self.assertEqual(beside(dies_unless_in, os.getpid()).result(), "done")
        self.assertNotEqual(beside(pid_of, 1).result(), os.getpid())  # and the next has one again
