//! SHA-256 of several texts at once, a text a lane.
//!
//! A cast hashes each file that it reads and each that it writes. On processors without instructions for SHA-256, one text at a
//! time takes longer than writing the files; eight at a time, with the vector instructions that the processor has, a third of
//! that. The algorithm is that of FIPS 180-4, section 6.2; tests hold it against another implementation.

use super::Digest;
use pulp::{Arch, NullaryFnOnce};

/// How many texts go side by side.
pub(super) const LANES: usize = 8;
const BLOCK: usize = 64;

type Lane = [u32; LANES];

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

/// The digests of up to [`LANES`] texts.
pub(super) fn digests(texts: &[&[u8]]) -> [Digest; LANES] {
    Arch::new().dispatch(Work(texts))
}

struct Work<'a>(&'a [&'a [u8]]);

impl NullaryFnOnce for Work<'_> {
    type Output = [Digest; LANES];

    #[inline(always)]
    fn call(self) -> [Digest; LANES] {
        let most = self.0.iter().map(|text| blocks(text.len())).max().unwrap_or(0);
        let mut state = START.map(|word| [word; LANES]);
        let mut digests = [Digest([0; 32]); LANES];
        for at in 0..most {
            let mut words = [[0_u32; LANES]; 16];
            for (lane, text) in self.0.iter().enumerate() {
                let padded;
                let block = match text.get(at * BLOCK..(at + 1) * BLOCK) {
                    Some(block) => block,
                    None => {
                        padded = last_block(text, at);
                        &padded
                    }
                };
                for (word, bytes) in words.iter_mut().zip(block.chunks_exact(4)) {
                    word[lane] = u32::from_be_bytes([bytes[0], bytes[1], bytes[2], bytes[3]]);
                }
            }
            compress(&mut state, &mut words);
            // A text that is over leaves its lane; what the lane takes in from then on does not matter.
            for (lane, text) in self.0.iter().enumerate().filter(|(_, text)| blocks(text.len()) == at + 1) {
                debug_assert!(!text.is_empty() || at == 0);
                for (word, bytes) in state.iter().zip(digests[lane].0.chunks_exact_mut(4)) {
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

/// Section 6.2.2, in every lane.
#[inline(always)]
fn compress(state: &mut [Lane; 8], words: &mut [Lane; 16]) {
    let [mut a, mut b, mut c, mut d, mut e, mut f, mut g, mut h] = *state;
    for round in 0..64 {
        if round >= 16 {
            let (x, y, z) = (words[(round - 15) & 15], words[(round - 2) & 15], words[(round - 7) & 15]);
            let word = &mut words[round & 15];
            for lane in 0..LANES {
                let small_0 = x[lane].rotate_right(7) ^ x[lane].rotate_right(18) ^ (x[lane] >> 3);
                let small_1 = y[lane].rotate_right(17) ^ y[lane].rotate_right(19) ^ (y[lane] >> 10);
                word[lane] = word[lane].wrapping_add(small_0).wrapping_add(z[lane]).wrapping_add(small_1);
            }
        }
        let word = &words[round & 15];
        let (mut first, mut second) = ([0; LANES], [0; LANES]);
        for lane in 0..LANES {
            let big_1 = e[lane].rotate_right(6) ^ e[lane].rotate_right(11) ^ e[lane].rotate_right(25);
            let choice = (e[lane] & f[lane]) ^ (!e[lane] & g[lane]);
            first[lane] = h[lane]
                .wrapping_add(big_1)
                .wrapping_add(choice)
                .wrapping_add(ROUND[round])
                .wrapping_add(word[lane]);
            let big_0 = a[lane].rotate_right(2) ^ a[lane].rotate_right(13) ^ a[lane].rotate_right(22);
            let majority = (a[lane] & b[lane]) ^ (a[lane] & c[lane]) ^ (b[lane] & c[lane]);
            second[lane] = big_0.wrapping_add(majority);
        }
        (h, g, f, e) = (g, f, e, sum(&d, &first));
        (d, c, b, a) = (c, b, a, sum(&first, &second));
    }
    for (word, add) in state.iter_mut().zip([a, b, c, d, e, f, g, h]) {
        *word = sum(word, &add);
    }
}

#[inline(always)]
fn sum(one: &Lane, other: &Lane) -> Lane {
    let mut sum = [0; LANES];
    for lane in 0..LANES {
        sum[lane] = one[lane].wrapping_add(other[lane]);
    }
    sum
}
