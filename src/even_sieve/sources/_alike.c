/* Texts that are equal to others, small letters of ASCII like capital ones, and what bytes hold. */

#include "_cells.h"

enum { WORD = 8, LENGTHS = 1 << 12, LOOKED_AT = 1 << 12 };
/* How letters are written: in small ones of ASCII, with capitals among them, or beyond ASCII. */
enum { SMALL = 0, CAPITAL = 1, BEYOND = 2 };

static const uint64_t EVERY = 0x0101010101010101u, HIGH = 0x8080808080808080u;

/* Strings one after the other; `wide` ends have 64 bits. */
typedef struct {
    const uint8_t *data;
    const void *ends;
    int64_t length;
    int wide;
} Strings;

static inline int64_t end_of(const Strings *strings, int64_t row)
{
    return strings->wide ? ((const int64_t *)strings->ends)[row] : ((const int32_t *)strings->ends)[row];
}

/* Tell where a string is and how long; 0 where the ends are not those of these bytes. */
static inline int find(const Strings *strings, int64_t row, const uint8_t **s, int64_t *size)
{
    int64_t start = end_of(strings, row), stop = end_of(strings, row + 1);
    *s = strings->data + start;
    *size = stop - start;
    return start >= 0 && stop >= start && stop <= strings->length;
}

/* Eight letters, those from A to Z as small ones. */
static inline uint64_t small(uint64_t word)
{
    uint64_t low = word & ~HIGH;
    uint64_t from_a = low + EVERY * (0x80 - 'A'), past_z = low + EVERY * (0x7F - 'Z');
    return word | ((from_a ^ past_z) & ~word & HIGH) >> 2;
}

/* The letters from a place on, of a string of so many bytes: eight, or those that are left. */
static inline uint64_t word_at(const uint8_t *s, int64_t size, int64_t at, int is_small)
{
    uint64_t word = 0;
    if (size >= WORD) {
        memcpy(&word, s + (at + WORD <= size ? at : size - WORD), WORD);
    } else if (size >= WORD / 2) {
        uint32_t first, last;
        memcpy(&first, s, WORD / 2);
        memcpy(&last, s + size - WORD / 2, WORD / 2);
        word = (uint64_t)first << 32 | last;
    } else if (size) {
        word = (uint64_t)s[0] << 16 | (uint64_t)s[size / 2] << 8 | s[size - 1];
    }
    return is_small ? small(word) : word;
}

static inline uint64_t number_of(const uint8_t *s, int64_t size, int is_small)
{
    uint64_t found = (uint64_t)size;
    int64_t at;
    for (at = 0; at < size; at += WORD) {
        found = (found ^ word_at(s, size, at, is_small)) * 0x9E3779B97F4A7C15u;
        found ^= found >> 32;
    }
    return found;
}

static inline int are_equal(const uint8_t *s, const uint8_t *other, int64_t size, int is_small)
{
    int64_t at;
    for (at = 0; at < size; at += WORD)
        if (word_at(s, size, at, is_small) != word_at(other, size, at, 0))
            return 0;
    return 1;
}

static inline int is_beyond(const uint8_t *s, int64_t size)
{
    uint64_t every = 0;
    int64_t at;
    for (at = 0; at < size; at += WORD)
        every |= word_at(s, size, at, 0);
    return (every & HIGH) != 0;
}

static inline int64_t length_seen(int64_t size) { return size < LENGTHS ? size : LENGTHS - 1; }

/* Mark the strings that are among those wanted, and which of these there are; of
 * strings `how` they are, which may be beyond ASCII, those are marked as such and not looked for.
 * `slots` holds, at the number of each or behind it, its place from 1 on; the places are fewer than
 * the slots. */
static int match(const Strings *strings, int64_t rows, const Strings *wanted, int64_t count,
                 int how, int32_t *slots, uint64_t mask, uint8_t *found, uint8_t *there)
{
    uint8_t lengths[LENGTHS] = {0};
    const uint8_t *s, *other;
    const int is_small = how != SMALL;
    int64_t row, size, long_;
    uint64_t at = 0, only;
    for (row = 0; row < count; row++) {
        if (!find(wanted, row, &s, &size))
            return 0;
        lengths[length_seen(size)] = 1;
        at = number_of(s, size, 0) & mask;
        while (slots[at])
            at = (at + 1) & mask;
        slots[at] = (int32_t)row + 1;
    }
    only = at; /* one alone is compared without looking for its slot */
    for (row = 0; row < rows; row++) {
        if (!find(strings, row, &s, &size))
            return 0;
        found[row] = how == BEYOND && is_beyond(s, size) ? BEYOND : 0;
        if (found[row] || !lengths[length_seen(size)])
            continue;
        at = count == 1 ? only : number_of(s, size, is_small) & mask;
        for (; slots[at]; at = (at + 1) & mask) {
            int32_t place = slots[at] - 1;
            find(wanted, place, &other, &long_);
            if (long_ == size && are_equal(s, other, size, is_small)) {
                found[row] = there[place] = 1;
                break;
            }
        }
    }
    return 1;
}

PyObject *match_texts(PyObject *module, PyObject *args)
{
    Py_buffer data, ends, wanted, wanted_ends, slots, found, there;
    int how, sound, wide, far;
    (void)module;
    if (!PyArg_ParseTuple(args, "y*y*y*y*iw*w*w*", &data, &ends, &wanted, &wanted_ends, &how,
                          &slots, &found, &there))
        return NULL;
    uint64_t size = (uint64_t)slots.len / sizeof(int32_t);
    sound = are_ends(&ends, found.len, &wide) && are_ends(&wanted_ends, there.len, &far) &&
            size && !(size & (size - 1)) && (uint64_t)there.len < size;
    if (sound) {
        Strings strings = {data.buf, ends.buf, data.len, wide};
        Strings sought = {wanted.buf, wanted_ends.buf, wanted.len, far};
        Py_BEGIN_ALLOW_THREADS
        memset(slots.buf, 0, (size_t)slots.len);
        memset(there.buf, 0, (size_t)there.len);
        sound = match(&strings, found.len, &sought, there.len, how, slots.buf, size - 1,
                      found.buf, there.buf);
        Py_END_ALLOW_THREADS
    }
    return ended((Py_buffer *[]){&data, &ends, &wanted, &wanted_ends, &slots, &found, &there}, 7,
                 sound);
}

/* Whether a part of at least one byte stands among some bytes. */
static int hold(const uint8_t *s, int64_t size, const uint8_t *part, int64_t length)
{
    int64_t last = size - length, at, block;
    if (length == 1)
        return size && memchr(s, part[0], (size_t)size) != NULL;
    for (block = 0; block <= last; block += LOOKED_AT) {
        int64_t end = last + 1 - block < LOOKED_AT ? last + 1 : block + LOOKED_AT;
        uint8_t other, least = 0xFF; /* no branch: several are looked at in one step */
        for (at = block; at < end; at++) {
            other = (uint8_t)((s[at] ^ part[0]) | (s[at + 1] ^ part[1]));
            least = other < least ? other : least;
        }
        for (at = block; !least && at < end; at++)
            if (!memcmp(s + at, part, (size_t)length))
                return 1;
    }
    return 0;
}

PyObject *hold_part(PyObject *module, PyObject *args)
{
    Py_buffer data, part;
    int held = 0;
    (void)module;
    if (!PyArg_ParseTuple(args, "y*y*", &data, &part))
        return NULL;
    Py_BEGIN_ALLOW_THREADS
    held = !part.len || hold(data.buf, data.len, part.buf, part.len);
    Py_END_ALLOW_THREADS
    PyBuffer_Release(&data);
    PyBuffer_Release(&part);
    return PyBool_FromLong(held);
}

static int letter_case(const uint8_t *s, int64_t size)
{
    int found = SMALL;
    int64_t at, block;
    for (block = 0; block < size; block += LOOKED_AT) {
        int64_t end = size - block < LOOKED_AT ? size : block + LOOKED_AT;
        uint8_t every = 0, past_a, least = 0xFF;
        for (at = block; at < end; at++) {
            past_a = (uint8_t)(s[at] - 'A');
            every |= s[at];
            least = past_a < least ? past_a : least;
        }
        if (every & 0x80)
            return BEYOND;
        if (least <= 'Z' - 'A')
            found = CAPITAL;
    }
    return found;
}

PyObject *case_of_letters(PyObject *module, PyObject *args)
{
    Py_buffer data;
    int found;
    (void)module;
    if (!PyArg_ParseTuple(args, "y*", &data))
        return NULL;
    Py_BEGIN_ALLOW_THREADS
    found = letter_case(data.buf, data.len);
    Py_END_ALLOW_THREADS
    PyBuffer_Release(&data);
    return PyLong_FromLong(found);
}
