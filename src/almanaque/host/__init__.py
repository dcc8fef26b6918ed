"""What the machine must hold: the private PostgreSQL cluster, the web and worker processes, backup and restore.

`postgres` finds and runs the server, `processes` starts web and worker and stops them together, `backup` writes and
reads whole databases. Only `cli` stands above.
"""
