//! Benchmarks of Tin Mold; see `benches/`.
