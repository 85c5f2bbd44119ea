/** Stands in for `hexy`, which Jest cannot load with require() on this Node: it only draws bytes for debugging. */
module.exports = { hexy: () => '' };
