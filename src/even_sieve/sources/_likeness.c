/* Texts that may look like a number, a date or a time to a person. All that do are among those told,
 * and others: Python decides. It is the shapes of `likeness.py` and `times.py`, loosely. */

#include "_cells.h"

enum { NUMBER_LIKE = 1, DATE_LIKE = 2, TIME_LIKE = 3 };
/* Currencies and months have no more letters; a table of two bytes has so many; names that begin
 * dates are told by so many letters. */
enum { CURRENCY_LETTERS = 3, LONGEST_MONTH = 9, PAIRS = 1 << 16, NAME = 3 };

/* What every text is held against: which two bytes begin a currency, and names that begin dates,
 * in small letters; `begins` has those whose first two letters do so. */
typedef struct {
    const uint8_t *pairs, *names;
    Py_ssize_t known;
    uint8_t begins[1 << 10];
} Table;

/* Two letters as one number, small ones like capitals. */
static inline int both(const uint8_t *s) { return (s[0] & 0x1F) << 5 | (s[1] & 0x1F); }

static int is_white(uint8_t letter)
{
    return letter == ' ' || (letter >= 0x09 && letter <= 0x0D) || (letter >= 0x1C && letter <= 0x1F);
}

static int parts_dates(uint8_t letter) { return letter == '.' || letter == '/' || letter == '-'; }

/* Whether a letter outside ASCII may be a digit of another script: not in blocks without any. */
static int may_be_digit(const uint8_t *s, const uint8_t *end)
{
    uint8_t second = s + 1 < end ? s[1] : 0, third = s + 2 < end ? s[2] : 0;
    if (s[0] < 0xD9 || (s[0] >= 0xE2 && s[0] <= 0xE9) || (s[0] >= 0xEB && s[0] <= 0xEE))
        return 0;
    if (s[0] == 0xE0)
        return second != 0xB8 && !(second == 0xB9 && third < 0x90);
    if (s[0] == 0xE1)
        return second < 0xB8;
    return s[0] != 0xEA || second < 0xB0;
}

static const uint8_t *past_digits(const uint8_t *s, const uint8_t *end)
{
#if defined(__GNUC__) && __BYTE_ORDER__ == __ORDER_LITTLE_ENDIAN__
    if (end - s >= 8) { /* eight at once: how many there are is hard to foresee */
        const uint64_t every = 0x0101010101010101u;
        uint64_t word;
        memcpy(&word, s, sizeof word);
        word ^= every * '0';
        word = (((word & every * 0x7F) + every * (0x80 - 10)) | word) & every * 0x80;
        if (word)
            return s + __builtin_ctzll(word) / 8;
        s += 8;
    }
#endif
    while (s < end && is_digit(*s))
        s++;
    return s;
}

static int begins_currency(const uint8_t *s, const uint8_t *end, const uint8_t *pairs)
{
    return pairs[(s[0] << 8) | (s + 1 < end ? s[1] : 0)];
}

/* Whether what follows the digits of a number may be its end: a sign, a currency, an exponent. */
static int may_end_number(const uint8_t *s, const uint8_t *end, const uint8_t *pairs)
{
    const uint8_t *at;
    int letters = 0;
    for (at = s; at < end; at++) {
        if (*at >= 0x80)
            return 1;
        if (is_digit(*at)) {
            const uint8_t *power = at - (at[-1] == '+' || at[-1] == '-') - 1;
            if (power < s || (*power | 0x20) != 'e')
                return 0;
            at = past_digits(at, end);
            return at == end || *at >= 0x80;
        }
        if (is_letter(*at)) {
            int is_power = (*at | 0x20) == 'e' && at + 1 < end &&
                           (is_digit(at[1]) || at[1] == '+' || at[1] == '-' || at[1] >= 0x80);
            if (!letters && !is_power && !begins_currency(at, end, pairs))
                return 0;
            if (++letters > CURRENCY_LETTERS + 1)
                return 0;
        } else if (*at == '_') {
            return 0;
        }
    }
    return 1;
}

static int may_be_number(const uint8_t *s, const uint8_t *end, const Table *table)
{
    int letters = 0, wide = 0;
    for (; s < end && !is_digit(*s); s++) {
        if (*s >= 0x80) {
            if (*s >= 0xC0 && may_be_digit(s, end))
                return 1;
            wide = 1;
        } else if (is_letter(*s)) {
            if (!letters && !wide && !begins_currency(s, end, table->pairs))
                return 0;
            if (++letters > CURRENCY_LETTERS)
                return 0;
        } else if (*s == '_') {
            return 0;
        }
    }
    if (s == end)
        return 0;
    while (s < end && (is_digit(*s) || *s == '.' || *s == ',' || *s == '\'' || is_white(*s)))
        s++;
    return may_end_number(s, end, table->pairs);
}

/* Whether there is a year of four digits. */
static int may_hold_year(const uint8_t *s, const uint8_t *end)
{
    int digits = 0;
    for (; s < end && digits < 4; s++) {
        if (*s >= 0x80)
            return 1;
        digits = is_digit(*s) ? digits + 1 : 0;
    }
    return digits == 4;
}

/* Past so many signs at the most that part a day, a month and a year from one another. */
static const uint8_t *past_parting(const uint8_t *s, const uint8_t *end)
{
    int left = 3;
    while (s < end && left-- && (parts_dates(*s) || *s == ' ' || *s == ','))
        s++;
    return s;
}

static const uint8_t *past_letters(const uint8_t *s, const uint8_t *end)
{
    while (s < end && (is_letter(*s) || *s == '_'))
        s++;
    return s;
}

/* Whether a month in words and a year may follow the digits of a day, "st" or the like between. */
static int may_name_month(const uint8_t *s, const uint8_t *end)
{
    const uint8_t *from = past_parting(s, end), *at = past_letters(from, end);
    if (at - from == 2) {
        from = past_parting(at, end);
        at = past_letters(from, end);
    }
    if (at < end && *at >= 0x80)
        return 1;
    if (at - from < NAME || at - from > 2 + LONGEST_MONTH)
        return 0;
    at = past_parting(at, end);
    return may_hold_year(at, end - at > 4 ? at + 4 : end);
}

/* Whether digits behind the first ones of a date, and digits behind those, may be its other parts. */
static int may_be_parts(const uint8_t *s, const uint8_t *end, int least)
{
    const uint8_t *at = past_digits(s, end);
    if (at < end && *at >= 0x80)
        return at - s <= 2;
    if (at == s || at - s > 2 || at == end || !parts_dates(*at))
        return 0;
    s = at + 1;
    at = past_digits(s, end);
    return at - s >= least || (at < end && *at >= 0x80);
}

static int may_be_date(const uint8_t *s, const uint8_t *end, const Table *table)
{
    const uint8_t *at = past_digits(s, end);
    Py_ssize_t digits = at - s, place;
    if (!digits) {
        if (end - s < NAME || !table->begins[both(s)])
            return 0;
        for (place = 0; place < table->known; place++) {
            const uint8_t *name = table->names + NAME * place;
            if ((s[0] | 0x20) == name[0] && (s[1] | 0x20) == name[1] && (s[2] | 0x20) == name[2])
                return may_hold_year(s + NAME, end);
        }
        return 0;
    }
    if (at == end || digits > 4 || digits == 3)
        return at < end && *at >= 0x80;
    if (*at >= 0x80)
        return 1;
    if (parts_dates(*at) && may_be_parts(at + 1, end, digits == 4 ? 1 : 2))
        return 1;
    return digits <= 2 && may_name_month(at, end);
}

static int may_be_time(const uint8_t *s, const uint8_t *end)
{
    const uint8_t *at = past_digits(s, end);
    if (at == s || at == end)
        return 0;
    return *at == ':' || (*at == ' ' && at + 1 < end && at[1] == 'd');
}

static int liken(const Py_buffer *data, const Py_buffer *ends, int wide, int what,
                 const Table *table, uint8_t *found, Py_ssize_t rows)
{
    const int32_t *narrow = ends->buf;
    const int64_t *far = ends->buf;
    int64_t row, start = wide ? far[0] : narrow[0], stop;
    for (row = 0; row < rows; row++, start = stop) {
        const uint8_t *s, *end;
        stop = wide ? far[row + 1] : narrow[row + 1];
        if (start < 0 || stop < start || stop > data->len)
            return 0;
        s = (const uint8_t *)data->buf + start;
        end = (const uint8_t *)data->buf + stop;
        found[row] = (uint8_t)(what == NUMBER_LIKE ? may_be_number(s, end, table)
                               : what == DATE_LIKE ? may_be_date(s, end, table)
                                                   : may_be_time(s, end));
    }
    return 1;
}

PyObject *liken_cells(PyObject *module, PyObject *args)
{
    Py_buffer data, ends, pairs, names, found;
    int what, wide, sound;
    (void)module;
    if (!PyArg_ParseTuple(args, "y*y*iy*y*w*", &data, &ends, &what, &pairs, &names, &found))
        return NULL;
    sound = pairs.len == PAIRS && are_ends(&ends, found.len, &wide);
    if (sound) {
        Table table = {pairs.buf, names.buf, names.len / NAME, {0}};
        Py_ssize_t place;
        for (place = 0; place < table.known; place++)
            table.begins[both(table.names + NAME * place)] = 1;
        Py_BEGIN_ALLOW_THREADS
        sound = liken(&data, &ends, wide, what, &table, found.buf, found.len);
        Py_END_ALLOW_THREADS
    }
    return ended((Py_buffer *[]){&data, &ends, &pairs, &names, &found}, 5, sound);
}
