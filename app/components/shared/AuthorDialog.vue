<script setup lang="ts">
const key = ref('')
const problem = ref('')

async function submit(): Promise<void> {
  problem.value = await signIn(key.value)
  if (problem.value) return
  key.value = ''
  authorAsked.value?.done(true)
}
</script>

<template>
  <el-dialog
    :model-value="authorAsked !== null"
    title="Sign in as the author"
    width="440px"
    @close="authorAsked?.done(false)"
  >
    <form @submit.prevent="submit">
      <p v-if="authorAsked?.why">{{ authorAsked.why }}</p>
      <p class="quiet">
        Publishing, drafting captions and reading results go through the server, and only the author may do that. The
        author key stands in the terminal where Thaw was started.
      </p>
      <label for="author-key">Author key</label>
      <el-input id="author-key" v-model="key" type="password" autocomplete="current-password" />
      <p v-if="problem" class="notice bad" role="alert">{{ problem }}</p>
      <div class="actions">
        <el-button native-type="submit" type="primary" :disabled="!key.trim()">Sign in</el-button>
      </div>
    </form>
  </el-dialog>
</template>

<style scoped>
.actions {
  margin-top: 16px;
  text-align: right;
}
.notice {
  margin-top: 10px;
}
</style>
