"""Flask: routes, validation, OpenAPI, events. No computation."""
