"""The memory of answers: made once for many threads, made anew after a failure, never more than so many."""

import threading
import unittest

from warmeter.service.cache import Cache


class Memory(unittest.TestCase):
    def test_of_many_threads_one_makes_it(self) -> None:
        cache: Cache[int] = Cache(4)
        begun, go = threading.Event(), threading.Event()
        made: list[int] = []

        def make() -> int:
            begun.set()
            go.wait(10)
            made.append(1)
            return 7

        got: list[int] = []
        threads = [threading.Thread(target=lambda: got.append(cache.get("k", make))) for _ in range(8)]
        for thread in threads:
            thread.start()
        begun.wait(10)
        self.assertEqual(cache.get("other", lambda: 3), 3)  # another key does not wait
        go.set()
        for thread in threads:
            thread.join(10)
        self.assertEqual((got, len(made)), ([7] * 8, 1))

    def test_who_waited_for_one_that_failed_makes_it(self) -> None:
        cache: Cache[int] = Cache(4)
        begun, go = threading.Event(), threading.Event()

        def fail() -> int:
            begun.set()
            go.wait(10)
            raise ValueError

        failed: list[bool] = []

        def first() -> None:
            try:
                cache.get("k", fail)
            except ValueError:
                failed.append(True)

        got: list[int] = []
        maker = threading.Thread(target=first)
        maker.start()
        begun.wait(10)
        waiter = threading.Thread(target=lambda: got.append(cache.get("k", lambda: 5)))
        waiter.start()
        go.set()
        maker.join(10)
        waiter.join(10)
        self.assertEqual((failed, got, cache.get("k", lambda: 9)), ([True], [5], 5))

    def test_the_oldest_goes(self) -> None:
        cache: Cache[str] = Cache(2)
        for key in ("a", "b", "c"):
            cache.get(key, lambda key=key: key)  # type: ignore[misc]
        self.assertEqual(cache.get("a", lambda: "anew"), "anew")

    def test_one_answer_may_need_another(self) -> None:
        cache: Cache[int] = Cache(4)
        self.assertEqual(cache.get("sum", lambda: cache.get("a", lambda: 1) + cache.get("b", lambda: 2)), 3)
