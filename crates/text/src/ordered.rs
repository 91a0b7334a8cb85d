//! Maps in the order of a file.

/// A map that keeps the order in which its keys came.
pub type Ordered<K, V> = indexmap::IndexMap<K, V, foldhash::fast::RandomState>;
