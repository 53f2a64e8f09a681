/* Cells of text told apart in one pass over their bytes: plain numbers, ISO dates and times, dates
 * in an order that was given, and what is certain to be text. What is none of these for certain is
 * left unsure, for Python to read: nothing here guesses. `sorted_cells.py` says what for. */

#define Py_LIMITED_API 0x030B0000
#define PY_SSIZE_T_CLEAN
#include <Python.h>
#include <stdint.h>
#include <string.h>

/* The first ones as in `Kind`; the others are states of their own. */
enum { NUMBER = 0, DATE = 1, TEXT = 2, BLANK = 5, UNSURE = 6, WORD, SPACED, NONE };
/* What the summary holds, in this order; then the largest number of each count of decimals. */
enum { NUMBERS, DATES, TEXTS, BLANKS, UNSURES, WORDS, SPACES, TIMED, CUT, LEAST, MOST, LARGEST };
enum { MOST_DIGITS = 18, HELD = LARGEST + MOST_DIGITS + 1 };
enum { DAY_FIRST = 1, MONTH_FIRST = 2, YEAR_FIRST = 3 };
/* Offsets are marked by their minutes east of UTC and this; the first mark is that of none. */
enum { OFFSET_0 = 1440, OFFSETS = 2 * OFFSET_0 };
/* An error has no more bytes; words that are no text have no more letters. */
enum { LONGEST_ERROR = 26, LONGEST_WORD = 8 };
#define SECOND INT64_C(1000000)
#define DAY (86400 * SECOND)
/* Days from 1970-01-01 to 0001-01-01 and 9999-12-31. */
#define FIRST_DAY INT64_C(-719162)
#define LAST_DAY INT64_C(2932896)

/* Marks of bytes: digits; letters that no number and no date has; what plain numbers are made of;
 * letters of exponents. */
enum { IS_DIGIT = 1, IS_LETTER = 2, IS_PLAIN = 4, IS_POWER = 8 };
static uint8_t marks[256];

typedef struct {
    uint8_t mark;
    int order;
    int64_t *summary;
    uint8_t *offsets;
    int64_t row;
} Told;

static int is_digit(uint8_t letter) { return letter >= '0' && letter <= '9'; }

static int is_letter(uint8_t letter)
{
    letter |= 0x20;
    return letter >= 'a' && letter <= 'z';
}

/* Whether there may be white space at an end, as Unicode has it. */
static int is_spaced(const uint8_t *s, int64_t n)
{
    uint8_t first = s[0], last = s[n - 1];
    if (first <= 0x20 || last <= 0x20)
        return 1;
    if (first == 0xC2 && n > 1 && (s[1] == 0x85 || s[1] == 0xA0))
        return 1;
    if (n > 2 && ((first == 0xE1 && s[1] == 0x9A) || (first == 0xE2 && s[1] <= 0x81) ||
                  (first == 0xE3 && s[1] == 0x80)))
        return 1;
    if (last < 0x80)
        return 0;
    if (n > 1 && s[n - 2] == 0xC2 && (last == 0x85 || last == 0xA0))
        return 1;
    return n > 2 && ((s[n - 3] == 0xE1 && s[n - 2] == 0x9A) ||
                     (s[n - 3] == 0xE2 && s[n - 2] <= 0x81) ||
                     (s[n - 3] == 0xE3 && s[n - 2] == 0x80));
}

/* How many bytes a sign between thousands has there, 0 for none: those of `written.py`. */
static int separator(const uint8_t *s, const uint8_t *end, uint8_t mark)
{
    if (*s == '\'' || *s == ' ' || *s == (mark == '.' ? ',' : '.'))
        return 1;
    if (end - s > 1 && s[0] == 0xC2 && s[1] == 0xA0)
        return 2;
    if (end - s > 2 && s[0] == 0xE2 && s[1] == 0x80 && (s[2] == 0xAF || s[2] == 0x99))
        return 3;
    return 0;
}

/* Read a number of at most 18 digits; between its thousands may stand signs, where `grouped`. */
static int number(const uint8_t *s, int64_t n, uint8_t mark, int grouped, int64_t *value,
                  uint8_t *places)
{
    const uint8_t *end = s + n, *whole, *between = NULL;
    int64_t found = 0;
    int digits = 0, decimals = 0, negative = 0, width = 0;
    if (*s == '+' || *s == '-')
        negative = *s++ == '-';
    whole = s;
    while (s < end && is_digit(*s) && digits <= MOST_DIGITS) {
        found = found * 10 + (*s++ - '0');
        digits++;
    }
    if (grouped && digits && digits <= 3 && s < end && (width = separator(s, end, mark))) {
        if (*whole == '0')
            return NONE;
        for (between = s; s < end && *s != mark; digits += 3) {
            if (end - s < width + 3 || memcmp(s, between, width) || !is_digit(s[width]) ||
                !is_digit(s[width + 1]) || !is_digit(s[width + 2]))
                return NONE;
            if (digits + 3 > MOST_DIGITS)
                return UNSURE;
            s += width;
            found = found * 1000 + (s[0] - '0') * 100 + (s[1] - '0') * 10 + (s[2] - '0');
            s += 3;
        }
    }
    if (digits > 1 && *whole == '0')
        return NONE;
    if (s < end && *s == mark) {
        for (s++; s < end && is_digit(*s) && digits <= MOST_DIGITS; digits++, decimals++)
            found = found * 10 + (*s++ - '0');
    }
    if (digits > MOST_DIGITS) {
        while (s < end && marks[*s] & (IS_PLAIN | IS_POWER))
            s++;
        return s == end || grouped ? UNSURE : NONE;
    }
    if (s < end || !digits)
        return NONE;
    *value = negative ? -found : found;
    *places = (uint8_t)decimals;
    return NUMBER;
}

static int two(const uint8_t *s) { return (s[0] - '0') * 10 + (s[1] - '0'); }

static int are_digits(const uint8_t *s, int count)
{
    while (count--)
        if (!is_digit(*s++))
            return 0;
    return 1;
}

/* Count the days from 1970-01-01; 0 for a day that no calendar has, by the sum of whole years. */
static int days_of(int year, int month, int day, int64_t *days)
{
    static const int lengths[] = {31, 28, 31, 30, 31, 30, 31, 31, 30, 31, 30, 31};
    static const int before[] = {0, 31, 59, 90, 120, 151, 181, 212, 243, 273, 304, 334};
    int leap = (year % 4 == 0 && year % 100 != 0) || year % 400 == 0, past = year - 1;
    if (year < 1 || month < 1 || month > 12 || day < 1)
        return 0;
    if (day > lengths[month - 1] + (leap && month == 2))
        return 0;
    *days = FIRST_DAY + (int64_t)past * 365 + past / 4 - past / 100 + past / 400 +
            before[month - 1] + (leap && month > 2) + day - 1;
    return 1;
}

/* Read what may follow a time: nothing, or its offset, in minutes. */
static int offset_of(const uint8_t *s, const uint8_t *end, int *there, int *minutes)
{
    int sign, hour, minute = 0;
    *there = *minutes = 0;
    if (s == end)
        return 1;
    if (*s == ' ' && end - s > 1)
        s++;
    *there = 1;
    if (*s == 'Z' && end - s == 1)
        return 1;
    if ((*s != '+' && *s != '-') || end - s < 3 || !are_digits(s + 1, 2))
        return 0;
    sign = *s == '-' ? -1 : 1;
    hour = two(s + 1);
    s += 3;
    if (s < end) {
        s += *s == ':';
        if (end - s != 2 || !are_digits(s, 2))
            return 0;
        minute = two(s);
    }
    *minutes = sign * (60 * hour + minute);
    return hour < 24 && minute < 60;
}

/* Read an ISO date, with a time or without; NONE where it does not begin as one. */
static int iso_date(const uint8_t *s, int64_t n, Told *told, int64_t *value)
{
    const uint8_t *end = s + n;
    int64_t days, micros;
    int hour, minute, second = 0, fraction = 0, place, cut = 0, there, offset;
    if (n < 10 || s[4] != '-' || s[7] != '-' || !are_digits(s, 4) || !are_digits(s + 5, 2) ||
        !are_digits(s + 8, 2))
        return NONE;
    if (!days_of(two(s) * 100 + two(s + 2), two(s + 5), two(s + 8), &days))
        return UNSURE;
    if (n == 10) {
        *value = days * DAY;
        return DATE;
    }
    if (n < 16 || n > 40 || (s[10] != 'T' && s[10] != ' ') || s[13] != ':' ||
        !are_digits(s + 11, 2) || !are_digits(s + 14, 2))
        return UNSURE;
    hour = two(s + 11);
    minute = two(s + 14);
    s += 16;
    if (end - s >= 3 && *s == ':' && are_digits(s + 1, 2)) {
        second = two(s + 1);
        s += 3;
        if (end - s >= 2 && (*s == '.' || *s == ',') && is_digit(s[1])) {
            for (place = 0, s++; s < end && is_digit(*s); s++, place++) {
                if (place < 6)
                    fraction = fraction * 10 + (*s - '0');
                else
                    cut |= *s != '0';
            }
            for (; place < 6; place++)
                fraction *= 10;
        }
    }
    if (hour > 23 || minute > 59 || second > 59 || !offset_of(s, end, &there, &offset))
        return UNSURE;
    micros = ((hour * 60 + minute) * 60 + second) * SECOND + fraction;
    micros += days * DAY - offset * 60 * SECOND;
    if (micros < FIRST_DAY * DAY || micros >= (LAST_DAY + 1) * DAY)
        return UNSURE;
    told->offsets[there ? offset + OFFSET_0 : 0] = 1;
    if (cut && told->summary[CUT] < 0)
        told->summary[CUT] = told->row;
    *value = micros;
    return DATE;
}

/* Read one or two digits, or four of a year, and go on behind them; -1 for others. */
static int part(const uint8_t **s, const uint8_t *end, int is_year)
{
    const uint8_t *begin = *s;
    int found = 0;
    while (*s < end && is_digit(**s) && *s - begin < 5)
        found = found * 10 + (*(*s)++ - '0');
    if (is_year)
        return *s - begin == 4 ? found : -1;
    return *s - begin == 1 || *s - begin == 2 ? found : -1;
}

/* Read a date in the order that was given, and a time of 24 hours to the minute or the second. */
static int ordered_date(const uint8_t *s, int64_t n, int order, int64_t *value)
{
    const uint8_t *end = s + n;
    int parts[3], at, year, month, day, hour = 0, minute = 0, second = 0;
    int64_t days;
    uint8_t between = 0;
    for (at = 0; at < 3; at++) {
        if (at && (s == end || (*s != '.' && *s != '/' && *s != '-')))
            return NONE;
        if (at == 1)
            between = *s;
        if (at && *s++ != between)
            return NONE;
        parts[at] = part(&s, end, at == (order == YEAR_FIRST ? 0 : 2));
        if (parts[at] < 0)
            return NONE;
    }
    year = parts[order == YEAR_FIRST ? 0 : 2];
    month = parts[order == MONTH_FIRST ? 0 : 1];
    day = parts[order == YEAR_FIRST ? 2 : order == MONTH_FIRST ? 1 : 0];
    if (s < end) {
        if (*s++ != ' ' || (hour = part(&s, end, 0)) < 0 || end - s < 3 || *s != ':' ||
            !are_digits(s + 1, 2))
            return UNSURE;
        minute = two(s + 1);
        s += 3;
        if (end - s == 3 && *s == ':' && are_digits(s + 1, 2)) {
            second = two(s + 1);
            s += 3;
        }
    }
    if (s < end || hour > 23 || minute > 59 || second > 59 || !days_of(year, month, day, &days))
        return UNSURE;
    *value = days * DAY + ((hour * 60 + minute) * 60 + second) * SECOND;
    return DATE;
}

static int is_word(const uint8_t *s, int64_t n, const char *word)
{
    int64_t at, length = (int64_t)strlen(word);
    if (n != length)
        return 0;
    for (at = 0; at < n; at++)
        if ((s[at] | 0x20) != word[at])
            return 0;
    return 1;
}

/* Whether letters stand for yes or no, or for a number beyond any. */
static int is_no_text(const uint8_t *s, int64_t n)
{
    return n <= LONGEST_WORD && (is_word(s, n, "true") || is_word(s, n, "false") ||
                                 is_word(s, n, "inf") || is_word(s, n, "infinity"));
}

/* Tell a cell that is no number and no date from what may be one in another form. */
static int word(const uint8_t *s, int64_t n, const Told *told)
{
    uint8_t first = s[0], last = s[n - 1], all = 0, common = IS_PLAIN;
    int64_t at, signs = 0;
    if (is_letter(first))
        return is_no_text(s, n) ? UNSURE : WORD;
    if (first == '#') {
        if (n > LONGEST_ERROR || (n > 1 && s[1] < 0x80 && !strchr("dDgGnNrRvV", s[1])))
            return WORD;
        return UNSURE;
    }
    for (at = 0; at < n; at++) {
        all |= marks[s[at]];
        common &= marks[s[at]];
    }
    while (signs < n && (s[signs] == '+' || s[signs] == '-'))
        signs++;
    if (signs && is_no_text(s + signs, n - signs))
        return UNSURE;
    if (!(all & IS_DIGIT))
        return WORD;
    if (all & IS_LETTER && !(is_digit(first) && (last == 'm' || last == 'M' || last == '.')))
        return WORD;
    if (told->mark != '.')
        return UNSURE;
    if (!(marks[first] & IS_PLAIN))
        return TEXT;
    if (told->order || all & IS_POWER)
        return UNSURE;
    if (is_digit(first) && ((n > 4 && s[4] == '-') || (n > 8 && (s[8] | 0x20) == 't')))
        return UNSURE;
    return common ? WORD : TEXT;
}

static int tell(const uint8_t *s, int64_t n, Told *told, int64_t *value, uint8_t *places)
{
    int found = NONE;
    if (!n)
        return BLANK;
    if (is_spaced(s, n))
        return SPACED;
    if (marks[s[0]] & IS_PLAIN || s[0] == told->mark) {
        found = number(s, n, told->mark, told->mark != '.', value, places);
        if (found == NONE && is_digit(s[0])) {
            found = iso_date(s, n, told, value);
            if (found == NONE && told->order)
                found = ordered_date(s, n, told->order, value);
        }
        if (found == UNSURE && told->mark == '.' && n > MOST_DIGITS) {
            int64_t at = 0;
            while (at < n && is_digit(s[at]))
                at++;
            if (at == n)
                return WORD; /* a code */
        }
    }
    return found == NONE ? word(s, n, told) : found;
}

static void count(int found, int64_t value, uint8_t places, int64_t *summary)
{
    int64_t size = value < 0 ? -value : value;
    switch (found) {
    case NUMBER:
        summary[NUMBERS]++;
        if (places < summary[LEAST])
            summary[LEAST] = places;
        if (places > summary[MOST])
            summary[MOST] = places;
        if (size > summary[LARGEST + places])
            summary[LARGEST + places] = size;
        break;
    case DATE:
        summary[DATES]++;
        summary[TIMED] |= value % DAY != 0;
        break;
    case WORD:
        summary[WORDS]++; /* fall through */
    case TEXT:
        summary[TEXTS]++;
        break;
    case BLANK:
        summary[BLANKS]++;
        break;
    case SPACED:
        summary[SPACES]++; /* fall through */
    default:
        summary[UNSURES]++;
    }
}

static int tell_all(const Py_buffer *data, const Py_buffer *ends, int wide, Py_ssize_t rows,
                    Told *told, uint8_t *states, int64_t *values, uint8_t *places)
{
    const int32_t *narrow = ends->buf;
    const int64_t *far = ends->buf;
    int64_t row, start = wide ? far[0] : narrow[0], stop;
    for (row = 0; row < rows; row++, start = stop) {
        int64_t value = 0;
        uint8_t decimals = 0;
        int found;
        stop = wide ? far[row + 1] : narrow[row + 1];
        if (start < 0 || stop < start || stop > data->len)
            return 0;
        told->row = row;
        found = tell((const uint8_t *)data->buf + start, stop - start, told, &value, &decimals);
        if (found != NUMBER && found != DATE)
            value = 0;
        count(found, value, decimals, told->summary);
        states[row] = found == WORD ? TEXT : found == SPACED ? UNSURE : (uint8_t)found;
        values[row] = value;
        places[row] = found == NUMBER ? decimals : 0;
    }
    return 1;
}

PyDoc_STRVAR(tell_doc,
             "tell(data, ends, mark, order, states, values, places, summary, offsets)\n--\n\n"
             "Tell the cells of Arrow strings apart, into buffers of uint8, int64, uint8, int64 "
             "and uint8.");

static PyObject *tell_cells(PyObject *module, PyObject *args)
{
    Py_buffer data, ends, states, values, places, summary, offsets;
    Py_ssize_t rows;
    int mark, order, wide, sound;
    (void)module;
    if (!PyArg_ParseTuple(args, "y*y*iiw*w*w*w*w*", &data, &ends, &mark, &order, &states, &values,
                          &places, &summary, &offsets))
        return NULL;
    rows = states.len;
    wide = ends.len == (rows + 1) * (Py_ssize_t)sizeof(int64_t);
    sound = (wide || ends.len == (rows + 1) * (Py_ssize_t)sizeof(int32_t)) &&
            values.len == rows * (Py_ssize_t)sizeof(int64_t) && places.len == rows &&
            summary.len == HELD * (Py_ssize_t)sizeof(int64_t) && offsets.len == OFFSETS;
    if (sound) {
        Told told = {(uint8_t)mark, order, summary.buf, offsets.buf, 0};
        memset(summary.buf, 0, summary.len);
        memset(offsets.buf, 0, offsets.len);
        told.summary[CUT] = -1;
        told.summary[LEAST] = MOST_DIGITS;
        Py_BEGIN_ALLOW_THREADS
        sound = tell_all(&data, &ends, wide, rows, &told, states.buf, values.buf, places.buf);
        Py_END_ALLOW_THREADS
    }
    PyBuffer_Release(&data);
    PyBuffer_Release(&ends);
    PyBuffer_Release(&states);
    PyBuffer_Release(&values);
    PyBuffer_Release(&places);
    PyBuffer_Release(&summary);
    PyBuffer_Release(&offsets);
    if (!sound) {
        PyErr_SetString(PyExc_ValueError, "these are not the buffers of one array of strings");
        return NULL;
    }
    Py_RETURN_NONE;
}

static PyMethodDef methods[] = {{"tell", tell_cells, METH_VARARGS, tell_doc}, {NULL}};

static struct PyModuleDef definition = {
    PyModuleDef_HEAD_INIT, "_cells", NULL, -1, methods, NULL, NULL, NULL, NULL,
};

PyMODINIT_FUNC PyInit__cells(void)
{
    const char *letters = "abcdfgijklmnopqrsuvwxy", *plain = "0123456789.+-", *at;
    for (at = letters; *at; at++)
        marks[(uint8_t)*at] = marks[(uint8_t)(*at - 0x20)] = IS_LETTER;
    for (at = plain; *at; at++)
        marks[(uint8_t)*at] = IS_PLAIN | (is_digit((uint8_t)*at) ? IS_DIGIT : 0);
    marks['e'] = marks['E'] = IS_POWER;
    return PyModule_Create(&definition);
}
