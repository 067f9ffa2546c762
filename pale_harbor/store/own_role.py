"""The role that works in the own cluster: it owns its database, and is no superuser.

The cluster's keeper, who is one, makes the database and hands it over, and does nothing else.
"""

from typing import Any, Final

import psycopg
from psycopg import Connection, sql

from pale_harbor.store.cluster import KEEPER, WORKER, Cluster

# Any number of our own: whoever holds this lock is making the database.
_HANDING_OVER: Final = 7_301_946_259
# What a table is made of that has an owner of its own. Indexes and sequences of columns go with their table.
_RELATIONS: Final = """
    select format('%%I.%%I', nspname, relname), relkind = 'v' from pg_class
    join pg_namespace on pg_namespace.oid = relnamespace join pg_roles on pg_roles.oid = relowner
    where rolname = %s and nspname not like 'pg\\_%%' and nspname <> 'information_schema' and relkind in ('r', 'v')
"""
_FUNCTIONS: Final = """
    select pg_proc.oid::regprocedure::text from pg_proc
    join pg_namespace on pg_namespace.oid = pronamespace join pg_roles on pg_roles.oid = proowner
    where rolname = %s and nspname not like 'pg\\_%%' and nspname <> 'information_schema'
"""


def hand_over(cluster: Cluster, name: str) -> None:
    """Makes the database where it is missing, owned by the role that works in it, and hands over what is not yet."""
    with psycopg.connect(cluster.keepers_address(), autocommit=True) as connection:
        role, own = sql.Identifier(WORKER), sql.Identifier(name)
        # Another command may do the same at the same moment. Let go of with the connection.
        connection.execute("select pg_advisory_lock(%s)", [_HANDING_OVER])
        if connection.execute("select 1 from pg_roles where rolname = %s", [WORKER]).fetchone() is None:
            making = sql.SQL("create role {} login nosuperuser nocreatedb nocreaterole password {}")
            connection.execute(making.format(role, sql.Literal(cluster.workers_password())))
        owner = _owner(connection, name)
        if owner is None:
            connection.execute(sql.SQL("create database {} owner {}").format(own, role))
        elif owner != WORKER:
            # Made by a version whose only role was the keeper.
            with psycopg.connect(cluster.keepers_address(name)) as inside:
                _hand_over_tables(inside)
            connection.execute(sql.SQL("alter database {} owner to {}").format(own, role))


def _owner(connection: Connection[Any], name: str) -> str | None:
    row = connection.execute(
        "select rolname from pg_database join pg_roles on pg_roles.oid = datdba where datname = %s", [name]
    ).fetchone()
    return None if row is None else str(row[0])


def _hand_over_tables(connection: Connection[Any]) -> None:
    role = sql.Identifier(WORKER)
    # PostgreSQL 14 gives what stands in `public` to its maker; from 15 on the database's owner may make things there.
    connection.execute(sql.SQL("grant all on schema public to {}").format(role))
    for named, is_view in connection.execute(_RELATIONS, [KEEPER]).fetchall():
        kind = sql.SQL("view" if is_view else "table")
        # A name that PostgreSQL has quoted itself.
        connection.execute(sql.SQL("alter {} {} owner to {}").format(kind, sql.SQL(named), role))
    for (named,) in connection.execute(_FUNCTIONS, [KEEPER]).fetchall():
        connection.execute(sql.SQL("alter function {} owner to {}").format(sql.SQL(named), role))
