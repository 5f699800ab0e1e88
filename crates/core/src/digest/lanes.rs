//! SHA-256 of several texts at once, a text a lane.
//!
//! A cast hashes each file that it reads and each that it writes. One text at a time, that takes as long as writing the files where a
//! processor has no instructions for SHA-256; eight or sixteen at a time, with its vector instructions, a fraction of that. Sixteen
//! at a time are quicker than instructions for SHA-256, too. The algorithm is that of FIPS 180-4, section 6.2; tests hold it against another implementation.

use super::vector::{Vector, Widest, widest};
use super::{Digest, digest_of};
use pulp::NullaryFnOnce;

/// The most texts that go side by side.
pub(super) const MOST: usize = super::SIDE_BY_SIDE;
const BLOCK: usize = 64;

/// FIPS 180-4, section 5.3.3.
const START: [u32; 8] =
    [0x6a09_e667, 0xbb67_ae85, 0x3c6e_f372, 0xa54f_f53a, 0x510e_527f, 0x9b05_688c, 0x1f83_d9ab, 0x5be0_cd19];

/// FIPS 180-4, section 4.2.2.
#[rustfmt::skip]
const ROUND: [u32; 64] = [
    0x428a_2f98, 0x7137_4491, 0xb5c0_fbcf, 0xe9b5_dba5, 0x3956_c25b, 0x59f1_11f1, 0x923f_82a4, 0xab1c_5ed5,
    0xd807_aa98, 0x1283_5b01, 0x2431_85be, 0x550c_7dc3, 0x72be_5d74, 0x80de_b1fe, 0x9bdc_06a7, 0xc19b_f174,
    0xe49b_69c1, 0xefbe_4786, 0x0fc1_9dc6, 0x240c_a1cc, 0x2de9_2c6f, 0x4a74_84aa, 0x5cb0_a9dc, 0x76f9_88da,
    0x983e_5152, 0xa831_c66d, 0xb003_27c8, 0xbf59_7fc7, 0xc6e0_0bf3, 0xd5a7_9147, 0x06ca_6351, 0x1429_2967,
    0x27b7_0a85, 0x2e1b_2138, 0x4d2c_6dfc, 0x5338_0d13, 0x650a_7354, 0x766a_0abb, 0x81c2_c92e, 0x9272_2c85,
    0xa2bf_e8a1, 0xa81a_664b, 0xc24b_8b70, 0xc76c_51a3, 0xd192_e819, 0xd699_0624, 0xf40e_3585, 0x106a_a070,
    0x19a4_c116, 0x1e37_6c08, 0x2748_774c, 0x34b0_bcb5, 0x391c_0cb3, 0x4ed8_aa4a, 0x5b9c_ca4f, 0x682e_6ff3,
    0x748f_82ee, 0x78a5_636f, 0x84c8_7814, 0x8cc7_0208, 0x90be_fffa, 0xa450_6ceb, 0xbef9_a3f7, 0xc671_78f2,
];

/// The number of blocks of a text with its padding.
pub(super) fn blocks(length: usize) -> usize {
    (length + 9).div_ceil(BLOCK)
}

/// The digests of several texts, in their order; none if this processor is as quick with one at a time.
pub(super) fn digests_of(texts: &[&[u8]]) -> Option<Vec<Digest>> {
    Some(with(widest()?, texts))
}

/// The digests of several texts with these vectors.
pub(super) fn with(widest: Widest, texts: &[&[u8]]) -> Vec<Digest> {
    let lanes = match widest {
        Widest::Sixteen(_) => 16,
        Widest::Eight(_) => 8,
    };
    let mut digests = vec![Digest([0; 32]); texts.len()];
    let mut order: Vec<usize> = (0..texts.len()).collect();
    order.sort_unstable_by_key(|at| texts[*at].len());
    for group in order.chunks(lanes) {
        let mut texts_of_group: [&[u8]; MOST] = [&[]; MOST];
        for (lane, at) in group.iter().enumerate() {
            texts_of_group[lane] = texts[*at];
        }
        let side_by_side = &texts_of_group[..group.len()];
        let blocks = side_by_side.iter().map(|text| blocks(text.len()));
        let (most, all) = (blocks.clone().max().unwrap_or(0), blocks.sum::<usize>());
        // Side by side all take as long as the longest.
        if all < most * 4 {
            group.iter().for_each(|at| digests[*at] = digest_of(texts[*at]));
            continue;
        }
        let found = match widest {
            Widest::Sixteen(vector) => vector.vectorize(Work { vector, texts: side_by_side }),
            Widest::Eight(vector) => vector.vectorize(Work { vector, texts: side_by_side }),
        };
        group.iter().zip(found).for_each(|(at, digest)| digests[*at] = digest);
    }
    digests
}

struct Work<'a, V> {
    vector: V,
    texts: &'a [&'a [u8]],
}

impl<V: Vector> NullaryFnOnce for Work<'_, V> {
    type Output = [Digest; MOST];

    #[inline(always)]
    fn call(self) -> [Digest; MOST] {
        let Self { vector, texts } = self;
        let most = texts.iter().map(|text| blocks(text.len())).max().unwrap_or(0);
        // What is whole is read where it stands.
        let whole: [&[[u8; BLOCK]]; MOST] =
            std::array::from_fn(|lane| texts.get(lane).map_or(&[][..], |text| text.as_chunks().0));
        let none_ends = whole[..texts.len()].iter().map(|blocks| blocks.len()).min().unwrap_or(0);
        let mut state = START.map(|word| vector.same(word));
        let mut digests = [Digest([0; 32]); MOST];
        let mut ends = [[0; BLOCK]; MOST];
        for at in 0..most {
            if at >= none_ends {
                for ((end, text), whole) in ends.iter_mut().zip(texts).zip(whole) {
                    if at >= whole.len() {
                        *end = last_block(text, at);
                    }
                }
            }
            let side_by_side = std::array::from_fn(|lane| whole[lane].get(at).unwrap_or(&ends[lane]));
            compress(vector, &mut state, vector.words(&side_by_side));
            // A text that is over leaves its lane; what the lane takes in from then on does not matter.
            if at < none_ends || !texts.iter().any(|text| blocks(text.len()) == at + 1) {
                continue;
            }
            let words = state.map(|word| vector.lanes_of(word));
            for (lane, _) in texts.iter().enumerate().filter(|(_, text)| blocks(text.len()) == at + 1) {
                for (word, bytes) in words.iter().zip(digests[lane].0.chunks_exact_mut(4)) {
                    bytes.copy_from_slice(&word[lane].to_be_bytes());
                }
            }
        }
        digests
    }
}

/// A block that holds the end of a text, the padding, or both. Section 5.1.1.
fn last_block(text: &[u8], at: usize) -> [u8; BLOCK] {
    let mut block = [0; BLOCK];
    let rest = text.get(at * BLOCK..).unwrap_or(&[]);
    block[..rest.len()].copy_from_slice(rest);
    if rest.len() < BLOCK && at * BLOCK <= text.len() {
        block[rest.len()] = 0x80;
    }
    if at + 1 == blocks(text.len()) {
        block[BLOCK - 8..].copy_from_slice(&(text.len() as u64 * 8).to_be_bytes());
    }
    block
}

/// Section 6.2.2, in every lane. The loops are written out, so that everything stays in registers.
#[inline(always)]
fn compress<V: Vector>(v: V, state: &mut [V::Word; 8], mut words: [V::Word; 16]) {
    let mut s = *state;
    // Instead of the values moving through a to h, the names move through the values.
    macro_rules! round {
        ($group:expr; $($i:literal)*) => {$({
            const AT: [usize; 8] = [
                (16 - $i) & 7, (17 - $i) & 7, (18 - $i) & 7, (19 - $i) & 7,
                (20 - $i) & 7, (21 - $i) & 7, (22 - $i) & 7, (23 - $i) & 7,
            ];
            let [a, b, c, d, e, f, g, h] = [s[AT[0]], s[AT[1]], s[AT[2]], s[AT[3]], s[AT[4]], s[AT[5]], s[AT[6]], s[AT[7]]];
            let big_1 = v.xor(v.rotated::<6>(e), v.rotated::<11>(e), v.rotated::<25>(e));
            let taken = v.add(words[$i], v.same(ROUND[$group * 16 + $i]));
            let first = v.add(v.add(h, big_1), v.add(v.choice(e, f, g), taken));
            let big_0 = v.xor(v.rotated::<2>(a), v.rotated::<13>(a), v.rotated::<22>(a));
            s[AT[3]] = v.add(d, first);
            s[AT[7]] = v.add(first, v.add(big_0, v.majority(a, b, c)));
        })*};
    }
    macro_rules! schedule {
        ($($i:literal)*) => {$({
            let (x, y) = (words[($i + 1) & 15], words[($i + 14) & 15]);
            let small_0 = v.xor(v.rotated::<7>(x), v.rotated::<18>(x), v.shifted::<3>(x));
            let small_1 = v.xor(v.rotated::<17>(y), v.rotated::<19>(y), v.shifted::<10>(y));
            words[$i] = v.add(v.add(words[$i], small_0), v.add(words[($i + 9) & 15], small_1));
        })*};
    }
    for group in 0..4 {
        if group > 0 {
            schedule!(0 1 2 3 4 5 6 7 8 9 10 11 12 13 14 15);
        }
        round!(group; 0 1 2 3 4 5 6 7 8 9 10 11 12 13 14 15);
    }
    for (word, more) in state.iter_mut().zip(s) {
        *word = v.add(*word, more);
    }
}
