"""HostError: the machine lacks something; the message is one sentence that says what to do."""


class HostError(Exception):
    pass
