"""Speed, as ratios in one run where possible. Run: .venv/bin/python -m benchmarks [--write]"""
