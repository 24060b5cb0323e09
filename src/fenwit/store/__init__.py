"""PostgreSQL through psycopg: plain SQL beside the function that runs it."""
