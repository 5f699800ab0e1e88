//! What SHA-256 does to words of 32 bits, in every lane of the vectors that a processor has.

use super::lanes::MOST;
use core::arch::x86_64::{__m256i, __m512i};
use pulp::cast;
use pulp::x86::{V3, V4};

/// The bytes that go into one step, a text a lane.
pub(super) type Blocks<'t> = [&'t [u8; 64]; MOST];

/// Vectors of words, a lane a text. Lanes beyond its own do not exist for it.
pub(super) trait Vector: Copy {
    /// A word of each text.
    type Word: Copy;

    /// The same word in every lane.
    fn same(self, word: u32) -> Self::Word;
    /// The words of a block of each text, read with the highest byte first.
    fn words(self, blocks: &Blocks<'_>) -> [Self::Word; 16];
    /// The word of each lane.
    fn lanes_of(self, word: Self::Word) -> [u32; MOST];
    /// The sum, modulo 2^32.
    fn add(self, one: Self::Word, other: Self::Word) -> Self::Word;
    /// Rotated right.
    fn rotated<const BY: i32>(self, word: Self::Word) -> Self::Word;
    /// Shifted right.
    fn shifted<const BY: u32>(self, word: Self::Word) -> Self::Word;
    /// Exclusive or.
    fn xor(self, one: Self::Word, two: Self::Word, three: Self::Word) -> Self::Word;
    /// Ch of FIPS 180-4, section 4.1.2: `e` chooses between the bits of `f` and `g`.
    fn choice(self, e: Self::Word, f: Self::Word, g: Self::Word) -> Self::Word;
    /// Maj of FIPS 180-4, section 4.1.2.
    fn majority(self, a: Self::Word, b: Self::Word, c: Self::Word) -> Self::Word;
}

/// The widest vectors of a processor.
#[derive(Clone, Copy)]
pub(super) enum Widest {
    Sixteen(V4),
    Eight(V3),
}

/// The vectors that are quicker than one text at a time; none where the processor's instructions for SHA-256 are, or where it
/// has no vectors. Sixteen lanes take half as long as those instructions, eight lanes more than half as long again.
pub(super) fn widest() -> Option<Widest> {
    let one_at_a_time = std::is_x86_feature_detected!("sha");
    all().find(|vectors| matches!(vectors, Widest::Sixteen(_)) || !one_at_a_time)
}

/// All vectors that this processor has, the widest first.
pub(super) fn all() -> impl Iterator<Item = Widest> {
    V4::try_new().map(Widest::Sixteen).into_iter().chain(V3::try_new().map(Widest::Eight))
}

impl Vector for V4 {
    type Word = __m512i;

    #[inline(always)]
    fn same(self, word: u32) -> __m512i {
        self.avx512f._mm512_set1_epi32(word.cast_signed())
    }

    /// Sixteen rows of sixteen words are transposed.
    #[inline(always)]
    fn words(self, blocks: &Blocks<'_>) -> [__m512i; 16] {
        const HIGHEST_FIRST: [u8; 64] = {
            let mut order = [0; 64];
            let mut at = 0;
            while at < 64 {
                order[at] = (at ^ 3) as u8;
                at += 1;
            }
            order
        };
        let f = self.avx512f;
        let order = cast(HIGHEST_FIRST);
        let mut rows = [order; 16];
        for (row, block) in rows.iter_mut().zip(blocks) {
            *row = self.avx512bw._mm512_shuffle_epi8(cast(**block), order);
        }
        let mut out = rows;
        // Four rows become, in each quarter of a vector, four words of one column.
        let mut quarters = [[rows[0]; 4]; 4];
        for (four, rows) in quarters.iter_mut().zip(rows.chunks_exact(4)) {
            let (low, high) =
                (f._mm512_unpacklo_epi32(rows[0], rows[1]), f._mm512_unpackhi_epi32(rows[0], rows[1]));
            let (low_2, high_2) =
                (f._mm512_unpacklo_epi32(rows[2], rows[3]), f._mm512_unpackhi_epi32(rows[2], rows[3]));
            *four = [
                f._mm512_unpacklo_epi64(low, low_2),
                f._mm512_unpackhi_epi64(low, low_2),
                f._mm512_unpacklo_epi64(high, high_2),
                f._mm512_unpackhi_epi64(high, high_2),
            ];
        }
        // The quarters of one column come together.
        for column in 0..4 {
            let (one, two) = (quarters[0][column], quarters[1][column]);
            let (three, four) = (quarters[2][column], quarters[3][column]);
            let (even, odd) =
                (f._mm512_shuffle_i32x4::<0x88>(one, two), f._mm512_shuffle_i32x4::<0xdd>(one, two));
            let (even_2, odd_2) =
                (f._mm512_shuffle_i32x4::<0x88>(three, four), f._mm512_shuffle_i32x4::<0xdd>(three, four));
            out[column] = f._mm512_shuffle_i32x4::<0x88>(even, even_2);
            out[4 + column] = f._mm512_shuffle_i32x4::<0x88>(odd, odd_2);
            out[8 + column] = f._mm512_shuffle_i32x4::<0xdd>(even, even_2);
            out[12 + column] = f._mm512_shuffle_i32x4::<0xdd>(odd, odd_2);
        }
        out
    }

    #[inline(always)]
    fn lanes_of(self, word: __m512i) -> [u32; MOST] {
        cast(word)
    }

    #[inline(always)]
    fn add(self, one: __m512i, other: __m512i) -> __m512i {
        self.avx512f._mm512_add_epi32(one, other)
    }

    #[inline(always)]
    fn rotated<const BY: i32>(self, word: __m512i) -> __m512i {
        self.avx512f._mm512_ror_epi32::<BY>(word)
    }

    #[inline(always)]
    fn shifted<const BY: u32>(self, word: __m512i) -> __m512i {
        self.avx512f._mm512_srli_epi32::<BY>(word)
    }

    // The table of a ternary operation has a bit for each of the eight ways in which three bits can stand.
    #[inline(always)]
    fn xor(self, one: __m512i, two: __m512i, three: __m512i) -> __m512i {
        self.avx512f._mm512_ternarylogic_epi32::<0x96>(one, two, three)
    }

    #[inline(always)]
    fn choice(self, e: __m512i, f: __m512i, g: __m512i) -> __m512i {
        self.avx512f._mm512_ternarylogic_epi32::<0xca>(e, f, g)
    }

    #[inline(always)]
    fn majority(self, a: __m512i, b: __m512i, c: __m512i) -> __m512i {
        self.avx512f._mm512_ternarylogic_epi32::<0xe8>(a, b, c)
    }
}

impl Vector for V3 {
    type Word = __m256i;

    #[inline(always)]
    fn same(self, word: u32) -> __m256i {
        self.avx._mm256_set1_epi32(word.cast_signed())
    }

    #[inline(always)]
    fn words(self, blocks: &Blocks<'_>) -> [__m256i; 16] {
        std::array::from_fn(|word| {
            let at = word * 4;
            cast(std::array::from_fn::<u32, 8, _>(|lane| {
                let block = blocks[lane];
                u32::from_be_bytes([block[at], block[at + 1], block[at + 2], block[at + 3]])
            }))
        })
    }

    #[inline(always)]
    fn lanes_of(self, word: __m256i) -> [u32; MOST] {
        let mut words = [0; MOST];
        words[..8].copy_from_slice(&cast::<_, [u32; 8]>(word));
        words
    }

    #[inline(always)]
    fn add(self, one: __m256i, other: __m256i) -> __m256i {
        self.avx2._mm256_add_epi32(one, other)
    }

    #[inline(always)]
    fn rotated<const BY: i32>(self, word: __m256i) -> __m256i {
        let left = self.sse2._mm_cvtsi32_si128(32 - BY);
        let right = self.sse2._mm_cvtsi32_si128(BY);
        self.avx2
            ._mm256_or_si256(self.avx2._mm256_srl_epi32(word, right), self.avx2._mm256_sll_epi32(word, left))
    }

    #[inline(always)]
    fn shifted<const BY: u32>(self, word: __m256i) -> __m256i {
        self.avx2._mm256_srl_epi32(word, self.sse2._mm_cvtsi32_si128(BY.cast_signed()))
    }

    #[inline(always)]
    fn xor(self, one: __m256i, two: __m256i, three: __m256i) -> __m256i {
        self.avx2._mm256_xor_si256(self.avx2._mm256_xor_si256(one, two), three)
    }

    #[inline(always)]
    fn choice(self, e: __m256i, f: __m256i, g: __m256i) -> __m256i {
        let chosen = self.avx2._mm256_and_si256(e, self.avx2._mm256_xor_si256(f, g));
        self.avx2._mm256_xor_si256(chosen, g)
    }

    #[inline(always)]
    fn majority(self, a: __m256i, b: __m256i, c: __m256i) -> __m256i {
        let both = self.avx2._mm256_and_si256(a, b);
        let either = self.avx2._mm256_and_si256(c, self.avx2._mm256_or_si256(a, b));
        self.avx2._mm256_or_si256(both, either)
    }
}
