/* The different letters of texts in UTF-8. */

#include "_cells.h"

enum { LETTERS = 0x110000 };

/* How many bytes a letter beyond ASCII has by its first one; 0 for a byte that begins none. */
static int bytes_of(uint8_t first)
{
    if (first < 0xC2 || first > 0xF4)
        return 0;
    return first < 0xE0 ? 2 : first < 0xF0 ? 3 : 4;
}

static int see(const uint8_t *s, const uint8_t *end, uint8_t *seen)
{
    while (s < end) {
        int size, at;
        uint32_t letter;
        if (*s < 0x80) {
            seen[*s++] = 1;
            continue;
        }
        size = bytes_of(*s);
        letter = (uint32_t)(*s & (0x7F >> size));
        if (!size || end - s < size)
            return 0;
        for (at = 1; at < size; at++) {
            if ((s[at] & 0xC0) != 0x80)
                return 0;
            letter = letter << 6 | (s[at] & 0x3F);
        }
        if (letter >= LETTERS)
            return 0;
        seen[letter] = 1;
        s += size;
    }
    return 1;
}

PyObject *see_letters(PyObject *module, PyObject *args)
{
    Py_buffer data, seen;
    int sound;
    (void)module;
    if (!PyArg_ParseTuple(args, "y*w*", &data, &seen))
        return NULL;
    sound = seen.len == LETTERS;
    if (sound) {
        Py_BEGIN_ALLOW_THREADS
        sound = see(data.buf, (const uint8_t *)data.buf + data.len, seen.buf);
        Py_END_ALLOW_THREADS
    }
    return ended((Py_buffer *[]){&data, &seen}, 2, sound);
}
