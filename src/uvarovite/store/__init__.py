"""PostgreSQL: tables and queries. Seen by services and bootstrap only."""
