"""Use cases: analysing, importing, practising. Adapters come in through ports."""
