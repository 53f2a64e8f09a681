/* The doubles nearest to numbers that were written out, and the decimals that give these back.
 *
 * A number is w * 10^-p, w its first 19 digits, and its double m * 2^e: where both go into 128 bits
 * they are compared exactly. What that cannot tell, or would be told by a hair, is left to Python. */

#include "_cells.h"

#ifdef __SIZEOF_INT128__
typedef unsigned __int128 wide_t;

/* So many digits are kept; decimals of a double have so many at the most; bits of a double, and the
 * exponent that it stores for 1. */
enum { KEPT = 19, SHORTEST = 17, BITS = 53, ONE = 1023 };

static const uint64_t tens[] = {
    1u, 10u, 100u, 1000u, 10000u, 100000u, 1000000u, 10000000u, 100000000u, 1000000000u,
    10000000000u, 100000000000u, 1000000000000u, 10000000000000u, 100000000000000u,
    1000000000000000u, 10000000000000000u, 100000000000000000u, 1000000000000000000u,
    10000000000000000000u,
};

/* A number as it is written: its first digits, how many of these are decimals, whether there are
 * others behind them, and whether one of these is not 0. */
typedef struct {
    uint64_t digits;
    int places, count, is_cut, is_more, is_negative;
} Written;

/* A double: m * 2^-down. */
typedef struct {
    uint64_t m;
    int down;
} Double;

static int bits_of(uint64_t value) { return value ? 64 - __builtin_clzll(value) : 0; }

/* Take in the digits from there on, as many as are kept. */
static const uint8_t *take_digits(const uint8_t *s, const uint8_t *end, Written *found)
{
    uint64_t digits = found->digits;
    int count = found->count;
    for (; s < end && is_digit(*s) && count < KEPT; s++) {
        digits = digits * 10 + (uint64_t)(*s - '0');
        count += digits != 0;
    }
    found->digits = digits;
    found->count = count;
    return s;
}

/* Read digits with a mark among them; 0 for what is written otherwise. */
static int read_digits(const uint8_t *s, const uint8_t *end, uint8_t mark, Written *found)
{
    const uint8_t *begin;
    if (s < end && (*s == '+' || *s == '-'))
        found->is_negative = *s++ == '-';
    s = take_digits(s, end, found);
    if (s < end && *s == mark) {
        begin = ++s;
        s = take_digits(s, end, found);
        found->places = (int)(s - begin);
        for (; s < end && is_digit(*s); s++) {
            found->is_cut = 1;
            found->is_more |= *s != '0';
        }
    }
    return s == end && found->digits != 0 && found->places <= KEPT;
}

/* Find the double nearest to a number; 0 where its digits that were cut off could decide. */
static int nearest(const Written *from, Double *to)
{
    uint64_t by = tens[from->places];
    int up = 64 - (bits_of(from->digits) - bits_of(by)), down;
    wide_t raised = (wide_t)from->digits << up, whole = raised / by, rest = raised - whole * by;
    wide_t below, half, unknown;
    down = (whole >> 64 ? 65 : 64) - BITS;
    below = whole & (((wide_t)1 << down) - 1);
    half = (wide_t)1 << (down - 1);
    unknown = from->is_cut ? ((wide_t)1 << (up - bits_of(by) + 1)) + 1 : 0;
    to->m = (uint64_t)(whole >> down);
    to->down = up - down;
    if (below < half && below + unknown >= half)
        return 0;
    if (below > half || (below == half && (rest || from->is_more || to->m & 1)))
        to->m++;
    if (to->m >> BITS) {
        to->m >>= 1;
        to->down--;
    }
    return 1;
}

/* Find the fewest digits that give a double back, of so many decimals; 0 where that is unsure. */
static int shortest(const Double *of, int places, int64_t *whole, int16_t *decimals)
{
    wide_t scaled;
    uint64_t unit = 1, left, best = 0;
    int digits, is_halfway = 0;
    if (of->down < 1 || of->down > 66 || of->m == (uint64_t)1 << (BITS - 1) || places < 0 ||
        places > SHORTEST)
        return 0;
    scaled = (wide_t)of->m * tens[places];
    if (scaled >> of->down >= tens[SHORTEST + 1] - 1)
        return 0;
    left = (uint64_t)(scaled >> of->down);
    for (digits = 0;; digits++, unit *= 10, left /= 10) {
        uint64_t number = left * unit;
        wide_t above = scaled - ((wide_t)number << of->down), step = (wide_t)unit << of->down;
        uint64_t up = 2 * above > step; /* reckoned with, for nobody foretells it */
        wide_t away = up * step + (1 - 2 * (wide_t)up) * above;
        if (2 * away == tens[places] || (digits == SHORTEST && 2 * away < tens[places]))
            return 0;
        if (2 * away > tens[places])
            break;
        best = number + up * unit;
        is_halfway = 2 * above == step;
    }
    if (!digits || is_halfway)
        return 0;
    /* Fifteen digits and fewer are written as fifteen. */
    *whole = (int64_t)(digits > 2 && places >= 2 ? best / 100 : best);
    *decimals = (int16_t)(digits > 2 && places >= 2 ? places - 2 : places);
    return 1;
}

/* Tell the double of one number, and its decimals where these are asked for; 0 if it is left. */
static int near_one(const uint8_t *s, const uint8_t *end, uint8_t mark, double *value,
                    int64_t *whole, int16_t *places)
{
    Written from = {0, 0, 0, 0, 0, 0};
    Double found;
    double power;
    uint64_t bits;
    if (!read_digits(s, end, mark, &from) || !nearest(&from, &found))
        return 0;
    if (found.down < 0 || found.down >= ONE)
        return 0;
    if (*places == LONG_MARK) {
        if (from.count < KEPT || !shortest(&found, from.places - 2, whole, places))
            return 0;
        *whole = from.is_negative ? -*whole : *whole;
    }
    bits = (uint64_t)(ONE - found.down) << (BITS - 1); /* 2^-down as a double (IEEE 754) */
    memcpy(&power, &bits, sizeof power);
    *value = (from.is_negative ? -power : power) * (double)found.m;
    return 1;
}
#else
static int near_one(const uint8_t *s, const uint8_t *end, uint8_t mark, double *value,
                    int64_t *whole, int16_t *places)
{
    (void)s, (void)end, (void)mark, (void)value, (void)whole, (void)places;
    return 0;
}
#endif

static int near_all(const Py_buffer *data, const Py_buffer *ends, int wide,
                    const Py_buffer *rows, uint8_t mark, double *values, int64_t *whole,
                    int16_t *places, uint8_t *done)
{
    const int32_t *narrow = ends->buf;
    const int64_t *far = ends->buf, *row = rows->buf;
    Py_ssize_t at, wanted = rows->len / (Py_ssize_t)sizeof(int64_t);
    Py_ssize_t size = wide ? sizeof(int64_t) : sizeof(int32_t), held = ends->len / size - 1;
    for (at = 0; at < wanted; at++) {
        const uint8_t *s = (const uint8_t *)data->buf;
        int64_t start, stop;
        if (row[at] < 0 || row[at] >= held)
            return 0;
        start = wide ? far[row[at]] : narrow[row[at]];
        stop = wide ? far[row[at] + 1] : narrow[row[at] + 1];
        if (start < 0 || stop < start || stop > data->len)
            return 0;
        done[at] = (uint8_t)near_one(s + start, s + stop, mark, values + at, whole + at,
                                     places + at);
    }
    return 1;
}

PyObject *near_cells(PyObject *module, PyObject *args)
{
    Py_buffer data, ends, rows, values, whole, places, done;
    Py_ssize_t wanted;
    int mark, far, sound;
    (void)module;
    if (!PyArg_ParseTuple(args, "y*y*py*iw*w*w*w*", &data, &ends, &far, &rows, &mark, &values,
                          &whole, &places, &done))
        return NULL;
    wanted = done.len;
    sound = rows.len == wanted * (Py_ssize_t)sizeof(int64_t) &&
            values.len == wanted * (Py_ssize_t)sizeof(double) &&
            whole.len == wanted * (Py_ssize_t)sizeof(int64_t) &&
            places.len == wanted * (Py_ssize_t)sizeof(int16_t);
    if (sound) {
        Py_BEGIN_ALLOW_THREADS
        sound = near_all(&data, &ends, far, &rows, (uint8_t)mark, values.buf, whole.buf,
                         places.buf, done.buf);
        Py_END_ALLOW_THREADS
    }
    return ended((Py_buffer *[]){&data, &ends, &rows, &values, &whole, &places, &done}, 7, sound);
}
