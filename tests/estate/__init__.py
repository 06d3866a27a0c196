"""Tests of estates."""
