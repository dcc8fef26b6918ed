"""How long somebody waits who mistyped a password or a code: longer with every try, never for good.

**Sources:** a browser that has logged in to the account before is counted on its own, so that others who try cannot keep its
owner out (OWASP, *Slow Down Online Guessing Attacks with Device Cookies*). At most a hundred wrong tries an hour at one account
(OWASP ASVS 4.0.3, 2.2.1); `most_in_an_hour` says what a limit comes to. The figures themselves are our own rule.
"""

from dataclasses import dataclass

WINDOW_MINUTES = 60  # how far back tries count: our own rule


@dataclass(frozen=True)
class Limit:
    """`free` tries may be wrong without a wait; then it doubles from one second with every wrong one, up to `longest_s`."""

    free: int
    longest_s: int

    def wait_s(self, failures: int, since_s: float) -> int:
        """Seconds still to wait after this many wrong tries, the last one `since_s` ago; none when it may be tried at once."""
        if failures < self.free:
            return 0
        pause = min(self.longest_s, 2 ** min(failures - self.free, 20))
        left = pause - since_s
        return 0 if left <= 0 else int(left) + (left % 1 > 0)

    @property
    def most_in_an_hour(self) -> int:
        """Wrong tries that fit into an hour for somebody who tries again as soon as it is allowed."""
        count, now, tries = 0, 0.0, list[float]()
        while True:
            recent = [at for at in tries if at > now - WINDOW_MINUTES * 60]
            now += self.wait_s(len(recent), now - recent[-1] if recent else 0.0)
            if now >= 3600:
                return count
            tries.append(now)
            count += 1


KNOWN_BROWSER = Limit(5, 120)  # one that has logged in to this account before
LOGIN_FROM_ADDRESS = Limit(5, 120)  # one login name from one address
LOGIN = Limit(50, 120)  # one login name from all addresses, known browsers apart
ADDRESS = Limit(60, 30)  # all login names from one address: a school behind one
OWN_ACCOUNT = Limit(5, 120)  # the password asked for again, within a login
LINK_BY_MAIL = Limit(2, 3600)  # a link to a new password asked for
CLASS_CODE = Limit(60, 30)  # wrong codes of class pages from one address: a class of tablets behind one
