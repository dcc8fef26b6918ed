-- last_change: the newest command on a bed that was not undone
SELECT id, command, before, after, version FROM change
WHERE bed_id = %(bed)s AND NOT undone ORDER BY version DESC LIMIT 1;

-- next_change: the command on a bed that was undone last and may be done again
SELECT id, command, before, after, version FROM change
WHERE bed_id = %(bed)s AND undone AND NOT void AND after IS NOT NULL ORDER BY version LIMIT 1;

-- changes_since: what others did on a bed after a version, in order
SELECT c.command, coalesce(name.name, '') AS by, c.at, c.undone
FROM change c LEFT JOIN auth_people() name ON name.account_id = c.account_id
WHERE c.bed_id = %(bed)s AND c.version > %(version)s ORDER BY c.version;

-- done_since: commands on a bed from an instant on, the newest first, without those that were undone
SELECT id, command, before, after, version FROM change
WHERE bed_id = %(bed)s AND at >= %(at)s AND NOT undone ORDER BY version DESC;
