"""Firnwatch: a made-up network of volunteers who measure snow in the made-up Vell range. All pictures drawn by this project (MIT)."""
