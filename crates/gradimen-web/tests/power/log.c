/* Writes down every change that a process makes to the files of one folder, in order, and when it asked for them to be on the disk.
 * Preloaded into the program; GRADIMEN_LOG names the log, GRADIMEN_WATCH the folder. A record: kind, name, offset, length, bytes. */
#define _GNU_SOURCE
#include <dlfcn.h>
#include <fcntl.h>
#include <limits.h>
#include <pthread.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <sys/types.h>
#include <unistd.h>

static pthread_mutex_t one = PTHREAD_MUTEX_INITIALIZER;
static int out = -2;

static ssize_t (*real_pwrite)(int, const void *, size_t, off_t);
static ssize_t (*real_write)(int, const void *, size_t);
static int (*real_fsync)(int);
static int (*real_fdatasync)(int);
static int (*real_ftruncate)(int, off_t);

__attribute__((constructor)) static void begin(void) {
  real_pwrite = dlsym(RTLD_NEXT, "pwrite64");
  real_write = dlsym(RTLD_NEXT, "write");
  real_fsync = dlsym(RTLD_NEXT, "fsync");
  real_fdatasync = dlsym(RTLD_NEXT, "fdatasync");
  real_ftruncate = dlsym(RTLD_NEXT, "ftruncate64");
  const char *log = getenv("GRADIMEN_LOG");
  out = log ? open(log, O_WRONLY | O_CREAT | O_APPEND, 0600) : -1;
}

/* The name of a file of ours within the watched folder; nothing for any other. */
static const char *watched(int fd, char *path) {
  const char *folder = getenv("GRADIMEN_WATCH");
  char link[64];
  if (out < 0 || !folder) return NULL;
  snprintf(link, sizeof link, "/proc/self/fd/%d", fd);
  ssize_t length = readlink(link, path, PATH_MAX - 1);
  if (length <= 0) return NULL;
  path[length] = 0;
  size_t skip = strlen(folder);
  if (strncmp(path, folder, skip) != 0 || path[skip] != '/') return NULL;
  return path + skip + 1;
}

static void note(char kind, const char *name, off_t at, const void *bytes, size_t length) {
  char head[PATH_MAX + 64];
  int size = snprintf(head, sizeof head, "%c %s %lld %zu\n", kind, name, (long long)at, bytes ? length : 0);
  pthread_mutex_lock(&one);
  real_write(out, head, (size_t)size);
  if (bytes) real_write(out, bytes, length);
  pthread_mutex_unlock(&one);
}

ssize_t pwrite64(int fd, const void *bytes, size_t length, off_t at) {
  char path[PATH_MAX];
  const char *name = watched(fd, path);
  ssize_t done = real_pwrite(fd, bytes, length, at);
  if (name && done > 0) note('w', name, at, bytes, (size_t)done);
  return done;
}
ssize_t pwrite(int fd, const void *bytes, size_t length, off_t at) { return pwrite64(fd, bytes, length, at); }

ssize_t write(int fd, const void *bytes, size_t length) {
  char path[PATH_MAX];
  const char *name = fd == out ? NULL : watched(fd, path);
  off_t at = name ? lseek(fd, 0, SEEK_CUR) : 0;
  ssize_t done = real_write(fd, bytes, length);
  if (name && done > 0) note('w', name, at, bytes, (size_t)done);
  return done;
}

int ftruncate64(int fd, off_t length) {
  char path[PATH_MAX];
  const char *name = watched(fd, path);
  int done = real_ftruncate(fd, length);
  if (name && done == 0) note('t', name, length, NULL, 0);
  return done;
}
int ftruncate(int fd, off_t length) { return ftruncate64(fd, length); }

static int synced(int fd, int (*real)(int)) {
  char path[PATH_MAX];
  const char *name = watched(fd, path);
  int done = real(fd);
  if (name && done == 0) note('s', name, 0, NULL, 0);
  return done;
}
int fsync(int fd) { return synced(fd, real_fsync); }
int fdatasync(int fd) { return synced(fd, real_fdatasync); }
