"""Thin routers: requests in, flows called, answers out; every refusal as problem details."""
